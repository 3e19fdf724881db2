import { isDeepStrictEqual } from 'node:util';
import { decisions, type model, siteFiles } from '../src/index.ts';
import { PairCounter, report, type Exercised } from './reference/pairs.ts';
import { randomBy } from './reference/random-site.ts';
import type { Request } from '../src/decision/decision.ts';
import { GUEST, NOW, someone } from './support.ts';

/**
 * The promise of `hide`: for a hidden page, every decision equals the decision on the site without that page. Random
 * sites have one page that is hidden from somebody; the same text without the page is the independent model.
 */

const SITES = Number(process.env['KLEIDON_SITES'] ?? 250);
const SEED = Number(process.env['KLEIDON_SEED'] ?? 1);
/** Each pair must be exercised this often; fewer sites cannot. */
const LEAST = SITES >= 20_000 ? 20 : 0;

const DIMENSIONS = {
  site: ['http', 'https', 'with port'],
  ungated: ['open', 'closed'],
  undeclared: ['missing', 'website'],
  change: ['as-view', 'gated-only'],
  case: ['lower', 'keep'],
  slash: ['drop', 'add', 'keep'],
  segment: ['ascii', 'digits', 'marks', 'space', 'accent', 'capital'],
  page: [
    'plain',
    'draft',
    'dated',
    'missing-unless',
    'leads-to',
    'https',
    'unlisted',
    'alias',
    'other alias',
  ],
  scope: [
    'at',
    'under',
    'several',
    'pattern',
    'nested',
    'narrows',
    'change',
    'dated',
    'full-access no',
  ],
  admit: [
    'nobody',
    'guest',
    'signed-in',
    'role',
    'person',
    'bought',
    'attribute',
    'query',
    'language',
    'not',
    'and',
  ],
  otherwise: ['hide', 'hide for guests', 'second entry'],
  redirect: [
    'none',
    'exact',
    'pattern',
    'query',
    'when',
    'unless-page',
    'permanent',
    'to the alias',
    'to the page',
    'from also',
  ],
  rewrite: ['none', 'plain', 'canonical', 'unless-page', 'to the page', 'from the alias'],
  missing: ['none', 'words', 'words of path', 'page', '410'],
  visitor: ['guest', 'member', 'two roles', 'person', 'buyer'],
  method: ['GET', 'HEAD', 'POST', 'OPTIONS', 'PUT'],
  asked: ['page', 'alias', 'section', 'old', 'served', 'other'],
  spelling: ['plain', 'capitals', 'slash', 'query', 'also host', 'http'],
};
type Trait = Partial<Record<keyof typeof DIMENSIONS, string[]>>;

const random = randomBy(SEED);
const one = <T>(...of: readonly T[]): T => of[Math.floor(random() * of.length)]!;
const is = (share: number): boolean => random() < share;

interface Made {
  readonly text: Record<string, unknown>;
  readonly page: string;
  readonly aliases: readonly string[];
  readonly traits: Trait;
}

/** A site with one page that its gates hide from some visitors. */
function siteByChance(): Made {
  const traits: Trait = {};
  const trait = (name: keyof typeof DIMENSIONS, value: string): string => {
    ((traits as Record<string, string[]>)[name] ??= []).push(value);
    return value;
  };
  const pick = (name: keyof typeof DIMENSIONS): string =>
    trait(name, one<string>(...DIMENSIONS[name]));
  const isLower = pick('case') === 'lower';
  const segment = {
    ascii: 'secret',
    digits: '2027',
    marks: '_a~@',
    space: 'a b',
    accent: 'café',
    capital: 'Secret',
  }[pick('segment')]!;
  const page = `/s/${segment}`;
  const kinds = [pick('page'), ...(is(0.5) ? [pick('page')] : [])];
  const has = (kind: string): boolean => kinds.includes(kind);
  const aliases = has('alias')
    ? ['/other', '/s/b/old']
    : has('other alias')
      ? ['/Other', '/caf%C3%A9']
      : [];
  const home = {
    http: 'http://t.example',
    https: 'https://t.example',
    'with port': 'http://t.example:8080',
  }[pick('site')]!;

  const condition = (): string => {
    const kind = pick('admit');
    return {
      nobody: 'nobody',
      guest: 'guest',
      'signed-in': 'signed-in',
      role: 'role r',
      person: 'visitor.id = "kim"',
      bought: 'bought m',
      attribute: 'visitor.town = "Ayr"',
      query: 'query.q = "1"',
      language: 'language = "de"',
      not: 'not role r',
      and: 'role r and not bought m',
    }[kind]!;
  };
  const otherwise = {
    hide: [{ do: 'hide' }],
    'hide for guests': [{ who: 'guest', do: 'hide' }, { do: 'refuse' }],
    'second entry': [{ who: 'role s', do: 'refuse' }, { do: 'hide' }],
  }[pick('otherwise')]!;
  const scope = pick('scope');
  const gate = {
    admit: condition(),
    otherwise,
    ...({
      at: { at: page },
      under: { under: '/s' },
      several: { at: [page, '/old'], under: '/t' },
      pattern: { at: '/s/:n' },
      nested: { under: '/s' },
      narrows: { at: page, narrows: 'yes' },
      change: { at: page },
      dated: { at: page, from: '2026-01-01', until: '2027-01-01' },
      'full-access no': { at: page, 'full-access': 'no' },
    }[scope] as object),
  };
  const gates: Record<string, unknown> = { secret: gate };
  if (scope === 'nested') gates['inner'] = { at: page, admit: condition() };
  if (scope === 'narrows') gates['outer'] = { under: '/s', admit: condition() };
  if (scope === 'change') gates['change'] = { at: page, right: 'change', admit: condition() };

  const redirect = {
    none: [],
    exact: [{ from: '/old', to: page }],
    pattern: [{ from: '/old/*', to: '/s/*' }],
    query: [{ from: `${page}?q=1`, to: '/open' }],
    when: [{ from: page, to: '/open', when: 'role s' }],
    'unless-page': [
      {
        from: '/s/*',
        to: '/open',
        'unless-page': 'yes',
        ...(is(0.5) ? { kind: 'permanent' } : {}),
      },
    ],
    permanent: [{ from: '/old', to: page, kind: 'permanent' }],
    'to the alias': [{ from: '/old', to: aliases[0] ?? '/other', kind: 'permanent' }],
    'to the page': [{ from: '/old/:x', to: `${page}?x=:x` }],
    'from also': [{ from: 'https://www.t.example/old', to: aliases[0] ?? page }],
  }[pick('redirect')];
  const rewrite = {
    none: [],
    plain: [{ from: '/r/:x', serve: '/served' }],
    canonical: [{ from: '/s/:x', serve: '/served?x=:x', canonical: 'yes' }],
    'unless-page': [
      { from: '/s/:x', serve: '/served?x=:x', canonical: 'yes', 'unless-page': 'yes' },
    ],
    'to the page': [{ from: '/r', serve: page }],
    'from the alias': [{ from: aliases[0] ?? '/other', serve: '/served' }],
  }[pick('rewrite')];
  const missing = {
    none: [],
    words: [{ under: '/', say: 'Nothing at {rest}.' }],
    'words of path': [{ under: '/', say: 'Nothing. No {path.n} here.' }],
    page: [{ under: '/', show: '/open' }],
    '410': [{ under: '/s', say: 'Gone', status: 410 }],
  }[pick('missing')];
  return {
    page,
    aliases,
    traits,
    text: {
      kleidon: 1,
      site: {
        name: 'T',
        address: home,
        also: ['https://www.t.example'],
        'sign-in': '/in',
        'full-access': 'role full',
        ungated: pick('ungated'),
        undeclared: pick('undeclared'),
        change: pick('change'),
        tidy: { case: isLower ? 'lower' : 'keep', 'final-slash': pick('slash'), allow: [' '] },
      },
      roles: { r: 'R', s: 'S', full: 'F' },
      products: { m: { title: 'M' } },
      pages: {
        '/': 'Home',
        '/in': 'In',
        '/open': 'Open',
        '/served': 'Served',
        ...(is(0.3) ? { '/s/:n': { title: 'N', example: '/s/other' } } : {}),
        [page]: {
          title: 'Secret',
          ...(has('draft') ? { draft: 'yes' } : {}),
          ...(has('dated') ? { from: one('2026-01-01', '2027-01-01') } : {}),
          ...(has('missing-unless') ? { 'missing-unless': condition() } : {}),
          ...(has('leads-to') ? { 'leads-to': '/open' } : {}),
          ...(has('https') ? { https: 'required' } : {}),
          ...(has('unlisted') ? { listed: 'no' } : {}),
          ...(aliases.length > 0 ? { aliases } : {}),
        },
      },
      gates,
      redirects: redirect,
      rewrites: rewrite,
      'not-found': missing,
      visitors: { kim: { roles: ['r'] } },
    },
  };
}

function without({ text, page }: Made): Record<string, unknown> {
  const { [page]: _, ...pages } = text['pages'] as Record<string, unknown>;
  return { ...text, pages };
}

const read = (text: Record<string, unknown>): decisions.PreparedSite | null => {
  const site = siteFiles.readSite(JSON.stringify(text), 'random.yaml');
  return site.ok ? decisions.prepareSite(site.site) : null;
};

const BOUGHT = [{ product: 'm', from: null, until: null, refunded: false, paused: false }];
const VISITORS: Record<string, model.Visitor> = {
  guest: { ...GUEST, language: 'de' },
  member: someone({ roles: ['r'] }),
  'two roles': someone({ roles: ['r', 's'], attributes: { town: 'Ayr' } }),
  person: someone({ id: 'kim', name: 'kim' }),
  buyer: someone({ bought: BOUGHT }),
};

/** A request for the page, what leads to it, or what is around it, in some spelling. */
function requestByChance({ page, aliases }: Made): {
  request: Request;
  asked: string;
  spelling: string;
  path: string;
} {
  const asked = one(...DIMENSIONS.asked);
  const path = encodeURI(
    {
      page,
      alias: one(...aliases, '/other'),
      section: one('/s', '/s/x', '/t', '/t/x'),
      old: one('/old', '/old/x', `/old/${page.slice(3)}`),
      served: one('/served', '/served?x=secret', '/served?x=caf%C3%A9', '/r', '/r/x'),
      other: one('/', '/open', '/nothing', '/in'),
    }[asked]!,
  ).replaceAll('%25', '%');
  const spelling = one(...DIMENSIONS.spelling);
  const query = path.includes('?') ? '&q=1' : '?q=1';
  const address = {
    plain: path,
    capitals: path.includes('%') ? path : path.toUpperCase().replace(/\?X=.*/, ''),
    slash: path.includes('?') ? path : `${path}/`.replace('//', '/'),
    query: path + query,
    'also host': `https://www.t.example${path}`,
    http: `http://t.example${path}`,
  }[spelling]!;
  return { request: { method: one(...DIMENSIONS.method), address }, asked, spelling, path };
}

const answerOf = ({ outcome, status, location, content, served, headers }: decisions.Decision) => ({
  outcome,
  status,
  location,
  content,
  served,
  headers,
});

/** Whether a gate hides the page from a visitor who asks in this way. */
function isHidden(
  gatesAlone: decisions.PreparedSite,
  { page }: Made,
  { method, address }: Request,
  visitor: model.Visitor,
): boolean {
  const { protocol, host, tidy } = gatesAlone.site;
  const query = /\?.*/.exec(address)?.[0] ?? '';
  const path = tidy.case === 'lower' ? page.toLowerCase() : page;
  const slash = tidy.finalSlash === 'add' ? '/' : '';
  const there = `${protocol}//${host}${encodeURI(path)}${slash}${query}`;
  const gates = decisions
    .decide(gatesAlone, { method, address: there, protocol: 'https:' as const }, visitor, NOW)
    .reasons.filter(({ stage, code }) => stage === 'gate' && code === 'not-admitted');
  return gates.some(({ values }) => 'then' in values && values.then.do === 'hide');
}

test('a site decides as if a hidden page were not there', () => {
  const pairs = new PairCounter(DIMENSIONS);
  let sites = 0;
  let compared = 0;
  const differing: string[] = [];
  for (let tries = 0; sites < SITES && tries < SITES * 20; tries++) {
    const made = siteByChance();
    const full = read(made.text);
    const bare = read(without(made));
    const gatesAlone = read({ ...made.text, redirects: [], rewrites: [] });
    if (!full || !bare || !gatesAlone) continue;
    let isHiddenFromSome = false;
    for (const [name, visitor] of Object.entries(VISITORS)) {
      const stages = new Set<string>();
      for (let i = 0; i < 12; i++) {
        const { request, asked, spelling, path } = requestByChance(made);
        if (!isHidden(gatesAlone, made, request, visitor)) continue;
        isHiddenFromSome = true;
        const decision = decisions.decide(full, request, visitor, NOW);
        const actual = answerOf(decision);
        const expected = answerOf(decisions.decide(bare, request, visitor, NOW));
        compared++;
        const { redirect: _, rewrite: __, missing: ___, ...site } = made.traits;
        pairs.add({
          ...site,
          visitor: [name],
          method: [request.method],
          asked: [asked],
          spelling: [spelling],
        });
        // Rules count where they were looked at, and not where they only stand in the file.
        for (const { stage, code } of decision.reasons)
          if (!code.startsWith('no-re')) stages.add(stage);
        // A website that has what no page declares is not asked for the alias of a hidden page: it might serve the page.
        const isClosed =
          asked === 'alias' && actual.outcome === 'missing' && expected.outcome === 'reach';
        if (isClosed || isDeepStrictEqual(actual, expected)) continue;
        differing.push(
          JSON.stringify({ name, request, path, actual, expected, text: made.text }, null, 1),
        );
      }
      if (stages.size > 0) pairs.add(usedRules(made.traits, stages, name));
    }
    if (isHiddenFromSome) sites++;
  }
  const missed = pairs.missed(LEAST, isImpossible);
  if (LEAST > 0) report({ sites, compared, differing: differing.length, missed });
  expect(differing.slice(0, 1)).toEqual([]);
  expect(compared).toBeGreaterThan(SITES * 5);
  expect(missed).toEqual([]);
});

/** The traits of a site and of its rules that some decision about a visitor looked at. */
function usedRules(traits: Trait, stages: ReadonlySet<string>, visitor: string): Exercised {
  const used = (stage: string, values: string[] | undefined): string[] =>
    stages.has(stage) ? values! : ['none'];
  return {
    ...traits,
    redirect: used('redirect', traits.redirect),
    rewrite: used('rewrite', traits.rewrite),
    missing: used('not-found', traits.missing),
    visitor: [visitor],
  };
}

/** Whether the steps of a gate never hide a page from a visitor; rules are counted for all requests of a visitor. */
const isImpossible = (one: string, other: string): boolean =>
  (/^(?:redirect|rewrite|missing): /.test(one) && /^(?:method|asked|spelling): /.test(other)) ||
  (one === 'otherwise: hide for guests' && /^visitor: (?!guest)/.test(other)) ||
  (one === 'otherwise: second entry' && other === 'visitor: two roles');
