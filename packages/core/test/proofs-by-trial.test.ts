import { readAddress } from '../src/address/address.ts';
import { pageAt } from '../src/decision/page-at.ts';
import { evaluate } from '../src/condition/evaluate.ts';
import { Explorer } from '../src/explore/explorer.ts';
import { ALL, NONE } from '../src/explore/visitor-sets.ts';
import { proveGuarantees } from '../src/guarantees/prove.ts';
import { decisions, model, siteFiles } from '../src/index.ts';
import { TooManyCases } from '../src/model/too-many-cases.ts';
import { SEED, SITES } from './reference/everyone.ts';
import { PairCounter, report } from './reference/pairs.ts';
import { randomBy } from './reference/random-site.ts';
import { NOW } from './support.ts';

// Texts of a step as people write them, by kind. Addresses are made of them and of patterns, without the engine.
const STEPS = {
  plain: ['a', 'bob', 'x'],
  digits: ['1', '3', '20'],
  underscore: ['a_b'],
  signs: ['a@b', 'a~b', "a'b", 'a,b', 'a=b'],
  dash: ['-a'],
  dot: ['.a'],
  space: ['a b'],
  accent: ['é', 'naïve'],
  script: ['жук'],
  capital: ['Ab'],
  quote: ['a"b'],
};
const PIECES = {
  segment: ':x',
  'of one': ':x([1-9])',
  'one of two': ':x(a|b)',
  digit: ':x(\\d)',
  number: ':x(\\d+)',
  prefixed: 'a-:x',
  several: ':x+',
  wildcard: '*',
};
const DIMENSIONS = {
  step: Object.keys(STEPS),
  pattern: ['exact', ...Object.keys(PIECES)],
  rule: ['page', 'gate under', 'gate at', 'redirect', 'rewrite'],
  admit: ['anyone', 'nobody', 'guest', 'role', 'not role', 'piece', 'own piece', 'either'],
  site: ['http', 'https', 'lower', 'keep', 'missing', 'website'],
  method: ['GET', 'POST'],
};

interface Made {
  readonly file: object;
  /** What each rule is made of, by what reasons call it. */
  readonly traits: ReadonlyMap<string, Readonly<Record<string, string[]>>>;
  readonly site: readonly string[];
  /** The patterns of all rules. */
  readonly patterns: readonly string[];
}

function chances(random: () => number) {
  const one = <T>(of: readonly T[]): T => of[Math.floor(random() * of.length)]!;
  const is = (share: number): boolean => random() < share;
  const times = <T>(most: number, make: () => T): T[] =>
    Array.from({ length: 1 + Math.floor(random() * most) }, make);
  const step = (): string => one(STEPS[one(Object.keys(STEPS) as (keyof typeof STEPS)[])]);

  const pattern = (): { text: string; kind: string; steps: string[] } => {
    const before = is(0.7) ? [step()] : [];
    const kind = is(0.35) ? 'exact' : one(Object.keys(PIECES));
    if (kind === 'exact') {
      const steps = [...before, step()];
      return { text: `/${steps.map(quoted).join('/')}`, kind, steps };
    }
    const after = is(0.25) && kind !== 'wildcard' && kind !== 'several' ? [step()] : [];
    const piece = PIECES[kind as keyof typeof PIECES];
    const parts = [...before.map(quoted), piece, ...after.map(quoted)];
    return { text: `/${parts.join('/')}`, kind, steps: [...before, ...after] };
  };

  const admit = (hasPiece: boolean): { text: string; kind: string } => {
    const kind = one(DIMENSIONS.admit.filter((one) => hasPiece || !one.endsWith('piece')));
    const texts: Record<string, string> = {
      role: 'role r',
      'not role': 'not role r',
      piece: `path.x = ${JSON.stringify(step())}`,
      'own piece': 'visitor.id = path.x',
      either: 'role r or role s',
    };
    return { text: texts[kind] ?? kind, kind };
  };

  const make = (): Made => {
    const traits = new Map<string, Record<string, string[]>>();
    const patterns: string[] = [];
    const note = (
      name: string,
      rule: string,
      made: ReturnType<typeof pattern>,
      more = {},
    ): void => {
      traits.set(name, {
        rule: [rule],
        pattern: [made.kind],
        step: made.steps.map(kindOf),
        ...more,
      });
      patterns.push(made.text);
    };
    const [protocol, letters, undeclared] = [
      one(['http', 'https']),
      one(['lower', 'keep']),
      is(0.2) ? 'website' : 'missing',
    ];
    const pages: Record<string, object> = { '/in': { title: 'In' } };
    for (const made of times(4, pattern)) {
      pages[made.text] = { title: 'P', ...(is(0.2) ? { https: 'required' } : {}) };
      note(`page ${made.text}`, 'page', made);
    }
    const gates: Record<string, object> = {};
    times(4, pattern).forEach((made, i) => {
      const { text, kind } = admit(made.text.includes(':x'));
      const extent = is(0.5) ? 'under' : 'at';
      // A wildcard has what is beneath it already.
      gates[`g${i}`] = { [made.kind === 'wildcard' ? 'at' : extent]: made.text, admit: text };
      if (is(0.2)) Object.assign(gates[`g${i}`]!, { otherwise: [{ do: one(['hide', 'refuse']) }] });
      if (is(0.2)) Object.assign(gates[`g${i}`]!, { right: 'change' });
      note(`gate g${i}`, `gate ${extent}`, made, { admit: [kind] });
    });
    const to = (from: ReturnType<typeof pattern>): string => {
      const filled = one(patterns.filter((text) => !/[:*]/.test(text)).concat('/in'));
      return from.kind === 'segment' && is(0.5) ? `${filled}/:x` : filled;
    };
    const redirects = is(0.4)
      ? times(2, pattern).map((made) => {
          note(`redirect ${made.text}`, 'redirect', made);
          return { from: made.text, to: to(made), ...(is(0.4) ? { 'unless-page': 'yes' } : {}) };
        })
      : [];
    const rewrites = is(0.3)
      ? times(1, pattern).map((made) => {
          note(`rewrite ${made.text}`, 'rewrite', made);
          return { from: made.text, serve: to(made) };
        })
      : [];
    const guarantees = times(4, () => ({
      who: one(['guest', 'anyone', 'role r', 'not role r']),
      ...one([{ never: 'reach' }, { never: 'reach' }, { never: 'change' }, { always: 'reach' }]),
      ...one([{ under: `/${quoted(step())}` }, { at: one(patterns) }, { under: '/' }]),
    }));
    const file = {
      kleidon: 1,
      site: {
        name: 'T',
        address: `${protocol}://t.example`,
        'sign-in': '/in',
        undeclared,
        tidy: { case: letters },
      },
      roles: { r: 'R', s: 'S' },
      pages,
      gates,
      redirects,
      rewrites,
      guarantees,
    };
    return { file, traits, patterns, site: [protocol, letters, undeclared] };
  };

  const address = (patterns: readonly string[]): string => {
    const filled = is(0.15)
      ? `/${times(3, step).join('/')}`
      : one(patterns)
          .replace(/\\(.)/g, '$1')
          .replace(/a-:x|:x(?:\([^)]*\)|\+)?|\*/, (piece) =>
            piece.startsWith('a-')
              ? `a-${step()}`
              : is(0.5) && /\(|\*|\+/.test(piece)
                ? one(['1', '2', '7', 'a', 'b', `${step()}/${step()}`])
                : step(),
          );
    const longer = is(0.3) ? `${filled}/${step()}` : filled;
    return is(0.1) ? longer.replace(/\/[^/]+$/, '') || '/' : longer;
  };
  return { make, address };
}

/** A step as a pattern has it. */
const quoted = (text: string): string => text.replace(/[+*?:{}()\\]/g, '\\$&');
const kindOf = (text: string): string =>
  Object.entries(STEPS).find(([, all]) => all.includes(text))![0];

const someone = (more: Partial<model.Visitor>): model.Visitor => ({
  ...model.GUEST,
  guest: false,
  ...more,
});
const VISITORS: readonly model.Visitor[] = [
  model.GUEST,
  ...[[], ['r'], ['s'], ['r', 's']].map((roles) => someone({ roles })),
  ...Object.values(STEPS).flatMap(([id]) => [
    someone({ id: id! }),
    someone({ id: id!, roles: ['r'] }),
  ]),
];

interface Entry {
  never?: string;
  always?: string;
  under?: string;
  at?: string;
}

/** Whether a path is in the scope of a guarantee, by a plainer reading than the engine's. */
function scopeOf({ under, at }: Entry, isLower: boolean): (path: string) => boolean {
  const source = (under ?? at)!
    .replaceAll('.', '\\.')
    .replace(/a-:x|:x\+|:x(\([^)]*\))?|\*/g, (piece, own: string | undefined) =>
      piece === '*'
        ? '.*'
        : piece === ':x+'
          ? '.+'
          : piece === 'a-:x'
            ? 'a-[^/]+'
            : (own ?? '[^/]+'),
    );
  const whole = under === '/' ? '/.*' : under === undefined ? source : `${source}(?:/.*)?`;
  const regexp = new RegExp(`^${whole}$`, isLower ? 'iu' : 'u');
  return (path) => regexp.test(decodeURIComponent(path).normalize('NFKC'));
}

const LEAST = SITES >= 10_000 ? 20 : 0;

test('proofs and families hold at every address that is tried', () => {
  const random = randomBy(SEED + 11);
  const by = chances(random);
  const pairs = new PairCounter(DIMENSIONS);
  const counts = {
    sites: 0,
    proved: 0,
    refuted: 0,
    unsettled: 0,
    visits: 0,
    families: 0,
    unknown: 0,
  };
  while (counts.sites < SITES) {
    const { file, traits, patterns, site } = by.make();
    const read = siteFiles.readSite(JSON.stringify(file), 'random.json');
    if (!read.ok) continue;
    counts.sites++;
    const prepared = decisions.prepareSite(read.site);
    const fail = (why: string, what: unknown): never => {
      throw new Error(`${why}: ${JSON.stringify(what)}\n${JSON.stringify(file, null, 1)}`);
    };
    const addresses = [...new Set(Array.from({ length: 40 }, () => by.address(patterns)))];
    const visits = addresses.flatMap((address) =>
      ['GET', 'POST'].flatMap((method) =>
        VISITORS.map((visitor) => {
          const made = decisions.visit(prepared, { method, address }, visitor, NOW);
          for (const { decision } of made.hops) {
            const met: Record<string, string[]> = { site: [...site], method: [method] };
            for (const { rule } of decision.reasons)
              for (const [dimension, values] of Object.entries(traits.get(rule ?? '') ?? {}))
                (met[dimension] ??= []).push(...values);
            if (LEAST > 0) pairs.add(met);
          }
          return { address, method, visitor, made };
        }),
      ),
    );
    counts.visits += visits.length;

    const verdicts = proveGuarantees(prepared, NOW);
    verdicts.forEach((verdict, i) => {
      counts[verdict.is]++;
      if (verdict.is !== 'proved') return;
      const entry = (file as { guarantees: Entry[] }).guarantees[i]!;
      const isIn = scopeOf(entry, site.includes('lower'));
      for (const { address, method, visitor, made } of visits) {
        if ((entry.never === 'change') !== (method === 'POST')) continue;
        const situation = { visitor, at: NOW, path: {}, query: '' };
        if (!evaluate(verdict.guarantee.who, situation, prepared.names)) continue;
        const pathOf = (text: string): string =>
          text.replace(/^https?:\/\/[^/]*/, '').replace(/[?#].*$/, '');
        if (entry.always !== undefined) {
          const first = made.hops[0]!;
          if (first.decision.page === null || !isIn(pathOf(first.address))) continue;
          if (made.outcome !== 'reach') fail('It is not always reached', [entry, address, visitor]);
        } else if (made.outcome === 'reach') {
          const { address: last, decision } = made.hops.at(-1)!;
          if ([last, decision.served ?? last].some((one) => isIn(pathOf(one))))
            fail('It is reached', [entry, method, address, visitor]);
        }
      }
    });

    const explorer = new Explorer(prepared, NOW);
    const asked = new Map<string, (typeof visits)[number][]>();
    for (const visit of visits)
      if (visit.method === 'GET')
        asked.set(visit.address, [...(asked.get(visit.address) ?? []), visit]);
    for (const page of prepared.site.pages) {
      let families;
      try {
        families = explorer.familiesOf(page);
      } catch (error) {
        if (!(error instanceof TooManyCases)) throw error;
        counts.unknown++;
        continue;
      }
      counts.families += families.length;
      for (const [address, own] of asked) {
        const known = readAddress(address, prepared.site, prepared.site.tidy);
        if (!known.ok || pageAt(prepared, address)?.rule.page !== page) continue;
        const { path } = known.address;
        const holding = families.filter((family) => family.has(path));
        if (families.length > 1 || holding.length > 0 || /[:*(]/.test(page.address))
          if (holding.length !== 1)
            fail('It is in one family', [page.address, address, holding.length]);
        const [family] = holding;
        if (!family) continue;
        const within = explorer.within(family);
        const parts = within.partsOf(family.example);
        for (const { visitor, made } of own) {
          const mine = parts.filter(
            ({ visitors }) => within.atoms.knowing(visitors, visitor, NOW) !== NONE,
          );
          const isCertain =
            mine.length === 1 && within.atoms.knowing(mine[0]!.visitors, visitor, NOW) === ALL;
          if (!mine.some(({ end }) => end.outcome === made.outcome))
            fail('A family says another end', [
              page.address,
              address,
              visitor,
              made.outcome,
              isCertain,
            ]);
        }
      }
    }
  }
  if (LEAST > 0) report({ ...counts, missed: pairs.missed(LEAST, () => false) });
  expect(counts.proved).toBeGreaterThan(SITES / 4);
  expect(counts.refuted).toBeGreaterThan(SITES / 2);
  expect(counts.unsettled + counts.unknown).toBeLessThan(SITES / 20);
});
