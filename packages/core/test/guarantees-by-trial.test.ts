import { normalizePath } from '../src/address/tidy.ts';
import { pageAt } from '../src/decision/page-at.ts';
import { evaluate } from '../src/condition/evaluate.ts';
import { proveGuarantees, type Verdict } from '../src/guarantees/prove.ts';
import { decisions, siteFiles, type model } from '../src/index.ts';
import { asText } from './reference/as-core.ts';
import { EVERYONE, SEED, SITES } from './reference/everyone.ts';
import { chance, randomBy } from './reference/random-site.ts';
import { NOW } from './support.ts';

/** Each costs a second: all visitors at many addresses. */
const TRIED = Math.ceil(SITES / 4);

/** The moments at which anything changes by the dates of random sites. */
const MOMENTS = [NOW, Date.UTC(2027, 0, 1), Date.UTC(2027, 0, 2)];

const CONDITIONS = [
  'anyone',
  'guest',
  'signed-in',
  'role r',
  'not role r',
  'role r and not role s',
  'bought m',
  'guest or bought n',
  'visitor.tags = "t"',
];

const SCOPES = [
  {},
  { under: '/' },
  { under: '/a' },
  { under: '/b/c' },
  { at: '/a' },
  { at: '/:p' },
  { at: ['/a/*', '/in'] },
  { under: '/x-a' },
  { at: '/b/:p' },
  // No page and no rule has it.
  { at: '/free' },
];

/** Some guarantees, each with what it says about one visit. */
function guarantees(random: () => number): object[] {
  const one = <T>(of: readonly T[]): T => of[Math.floor(random() * of.length)]!;
  return Array.from({ length: 6 }, () => {
    const demand = one([
      { never: 'reach' },
      { never: 'reach' },
      { never: 'change' },
      { always: 'reach' },
      { always: ['reach', 'sign-in'] },
      { always: 'change' },
      { never: ['block', 'loop'] },
      { never: 'missing' },
    ] as const);
    return { who: one(CONDITIONS), ...demand, ...one(SCOPES) };
  });
}

const remembered = <T>(make: (text: string) => T): ((text: string) => T) => {
  const known = new Map<string, T>();
  return (text) => {
    let made = known.get(text);
    if (made === undefined) known.set(text, (made = make(text)));
    return made;
  };
};
const regexpOf = (text: string): string => text.replace(/:p/g, '[^/]+').replace(/\*/g, '.*');
const section = remembered((text) => new RegExp(`^${regexpOf(text)}(/.*)?$`));
const exactly = remembered((text) => new RegExp(`^${regexpOf(text)}$`));

/** Whether a path is in the scope of a guarantee, by a second and plainer reading. */
function isIn({ under, at }: { under?: string; at?: string | string[] }, path: string): boolean {
  if (under === undefined && at === undefined) return true;
  if (under === '/') return true;
  if (under !== undefined && section(under).test(path)) return true;
  return [at ?? []].flat().some((text) => exactly(text).test(path));
}

type Entry = { who: string; never?: string | string[]; always?: string | string[] } & Parameters<
  typeof isIn
>[0];

type Visits = (
  method: string,
  address: string,
  visitor: model.Visitor,
  at: number,
) => decisions.Visit;

/** A site of which everything is asked once: many guarantees are about it. */
interface Asked {
  readonly visits: Visits;
  /** The path of an address, in the form in which rules are matched. */
  pathOf(address: string): string;
  isPage(address: string): boolean;
}

function askedOf(prepared: decisions.PreparedSite): Asked {
  const aliases = new Set(prepared.site.pages.flatMap((page) => page.aliases));
  return {
    visits: visitsTo(prepared),
    pathOf: remembered((text) =>
      normalizePath(
        text.replace(/^https?:\/\/[^/]*/, '').replace(/[?#].*$/, '') || '/',
        prepared.site.tidy,
      ),
    ),
    isPage: remembered(
      (address) =>
        !address.includes('?') && (aliases.has(address) || pageAt(prepared, address) !== null),
    ),
  };
}

function visitsTo(prepared: decisions.PreparedSite): Visits {
  const made = new Map<model.Visitor, Map<string, decisions.Visit>>();
  return (method, address, visitor, at) => {
    let own = made.get(visitor);
    if (!own) made.set(visitor, (own = new Map<string, decisions.Visit>()));
    const key = `${method} ${at} ${address}`;
    let visit = own.get(key);
    if (!visit) own.set(key, (visit = decisions.visit(prepared, { method, address }, visitor, at)));
    return visit;
  };
}

/** Whether a visit by someone whom a guarantee is about breaks it. */
function isBroken(
  { visits, pathOf, isPage }: Asked,
  entry: Entry,
  address: string,
  visitor: model.Visitor,
  at: number,
): boolean {
  const demands = [entry.never ?? entry.always ?? []].flat();
  const isChange = demands.includes('change');
  const wanted = isChange ? ['reach'] : demands;
  const visit = visits(isChange ? 'POST' : 'GET', address, visitor, at);
  if (entry.never !== undefined && wanted.includes('reach')) {
    if (visit.outcome !== 'reach') return false;
    const { address: last, decision } = visit.hops.at(-1)!;
    return [last, decision.served ?? last].some((one) => isIn(entry, pathOf(one)));
  }
  if (!isPage(address) || !isIn(entry, pathOf(address))) return false;
  return (entry.never !== undefined) === wanted.includes(visit.outcome);
}

test('what is proved no visit breaks, and what is refuted its witness breaks', () => {
  const random = randomBy(SEED + 7);
  const by = chance(random);
  const counts = { proved: 0, refuted: 0, unsettled: 0 };
  for (let sites = 0; sites < TRIED;) {
    const entries = guarantees(random) as Entry[];
    const text = asText({ ...by.site(), guarantees: entries } as never);
    const read = siteFiles.readSite(text, 'random.yaml');
    if (!read.ok) continue;
    sites++;
    const prepared = decisions.prepareSite(read.site);
    const asked = askedOf(prepared);
    const verdicts: Verdict[] = proveGuarantees(prepared, NOW);
    const addresses = [
      ...prepared.site.pages.map(({ example }) => example),
      '/free',
      ...Array.from({ length: 20 }, by.address).filter((one) => one.startsWith('/')),
    ];
    verdicts.forEach((verdict, i) => {
      counts[verdict.is]++;
      const entry = entries[i]!;
      const who = (visitor: model.Visitor): boolean =>
        evaluate(verdict.guarantee.who, { visitor, at: NOW, path: {}, query: '' }, prepared.names);
      const fail = (why: string, what: unknown): never => {
        throw new Error(
          `${why}: ${JSON.stringify([entry, verdict.is, 'witness' in verdict ? verdict.witness.address : '', what])}\n${text}`,
        );
      };
      if (verdict.is === 'refuted') {
        const { visitor, address, at } = verdict.witness;
        if (!who(visitor)) fail('The witness is nobody whom it is about', visitor);
        if (!isBroken(asked, entry, address, visitor, at))
          fail('The witness does not break it', address);
      }
      if (verdict.is !== 'proved') return;
      const affected = EVERYONE.filter(who);
      for (const at of MOMENTS)
        for (const address of new Set(addresses))
          for (const visitor of affected)
            if (isBroken(asked, entry, address, visitor, at))
              fail('It is broken', [address, visitor, at]);
    });
  }
  expect(counts.proved).toBeGreaterThan(TRIED);
  expect(counts.refuted).toBeGreaterThan(TRIED);
  expect(counts.unsettled).toBeLessThan(TRIED / 5);
});
