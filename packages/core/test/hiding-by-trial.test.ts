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

const SITES = Number(process.env['KLEIDON_SITES'] ?? 150);
const SEED = Number(process.env['KLEIDON_SEED'] ?? 1);
/** Each pair must be exercised this often; fewer sites cannot. */
const LEAST = SITES >= 50_000 ? 20 : 0;

const DIMENSIONS = {
  site: ['http', 'https', 'with port', 'path-like host', 'IPv6'],
  ungated: ['open', 'closed'],
  undeclared: ['missing', 'website'],
  change: ['as-view', 'gated-only'],
  full: ['to change', 'to view'],
  case: ['lower', 'keep'],
  slash: ['drop', 'add', 'keep'],
  tidy: ['none', 'endings', 'index', 'words -', 'words _'],
  allow: [' ', ';', '?', '#', '.'],
  segment: ['ascii', 'digits', 'marks', 'space', 'accent', 'capital', 'scripts', 'escape', 'long'],
  pattern: [
    'exact',
    ':x',
    'class',
    'class of one',
    'a-:x',
    ':x+',
    '*',
    'group',
    'optional',
    'two pieces',
  ],
  page: [
    'plain',
    'draft',
    'from',
    'until',
    'missing-unless',
    'leads-to',
    'leads away',
    'https',
    'unlisted',
    'file',
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
    'rank',
    'full-access no',
  ],
  admit: [
    'nobody',
    'guest',
    'signed-in',
    'role',
    'group',
    'person',
    'bought',
    'ever bought',
    'lapsed',
    'paused',
    'refunded',
    'audience',
    'attribute',
    'in',
    'query',
    'language',
    'not',
    'and',
    'or',
  ],
  otherwise: ['hide', 'hide for guests', 'second entry'],
  redirect: [
    'none',
    'exact',
    'pattern',
    'query',
    'when',
    'dated',
    'unless-page',
    'permanent',
    'wait',
    'rank',
    'chain',
    'loop',
    'to the alias',
    'to the page',
    'from also',
    'other host',
  ],
  rewrite: [
    'none',
    'plain',
    'canonical',
    'when',
    'dated',
    'unless-page',
    'to the page',
    'from the alias',
    'other server',
  ],
  missing: ['none', 'words', 'words of path', 'page', '410'],
  landing: ['none', 'at the page', 'at an old address', 'return-first'],
  visitor: ['guest', 'member', 'two roles', 'person', 'buyer', 'lapsed', 'paused', 'refunded'],
  moment: ['before', 'at the date', 'between', 'after'],
  method: ['GET', 'HEAD', 'POST', 'OPTIONS', 'PUT'],
  asked: ['page', 'alias', 'section', 'old', 'served', 'other'],
  spelling: [
    'plain',
    'capitals',
    'slash',
    'query',
    'also host',
    'other host',
    'unknown host',
    'http',
  ],
};
type Trait = Partial<Record<keyof typeof DIMENSIONS, string[]>>;

const random = randomBy(SEED);
const one = <T>(...of: readonly T[]): T => of[Math.floor(random() * of.length)]!;
const is = (share: number): boolean => random() < share;

interface Made {
  readonly text: Record<string, unknown>;
  readonly home: string;
  /** The page as the file has it, and an address of it. */
  readonly page: string;
  readonly address: string;
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
  const pattern = is(0.5) ? trait('pattern', 'exact') : pick('pattern');
  const segment = {
    ascii: 'secret',
    digits: '2027',
    marks: '_a~@',
    space: 'a b',
    accent: 'café',
    capital: 'Secret',
    scripts: 'pageстр',
    escape: 'se%63ret%2C',
    long: 'x'.repeat(300),
  }[pick('segment')]!;
  const words = pick('tidy');
  // As requests have it: an escape that is not needed leads to the address without it.
  const plain = segment.replace('%63', 'c').replace('%2C', ',');
  const piece = words === 'words _' ? 'a_' : 'a-';
  const [page, address] = {
    exact: [`/s/${segment}`, `/s/${plain}`],
    ':x': ['/s/:x', `/s/${plain}`],
    class: ['/s/:x([a-z0-9]+)', '/s/secret'],
    'class of one': ['/s/:x([a-z])', '/s/s'],
    'a-:x': [`/s/${piece}:x`, `/s/${piece}${plain}`],
    ':x+': ['/s/:x+', `/s/b/${plain}`],
    '*': ['/s/*', `/s/b/${plain}`],
    group: ['/s/(secret|b)', '/s/secret'],
    optional: ['/s{/b}?/secret', '/s/secret'],
    'two pieces': ['/s/:x/:y', `/s/b/${plain}`],
  }[pattern]! as [string, string];
  const kinds = [pick('page'), ...(is(0.5) ? [pick('page')] : [])].filter(
    (kind) => pattern === 'exact' || !kind.endsWith('alias'),
  );
  if (pattern !== 'exact') traits.page = kinds;
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
    'path-like host': 'http://s.secret.html',
    IPv6: 'http://[2001:db8::7]:8080',
  }[pick('site')]!;

  const condition = (): string => {
    const kind = pick('admit');
    return {
      nobody: 'nobody',
      guest: 'guest',
      'signed-in': 'signed-in',
      role: 'role r',
      group: 'group g',
      'ever bought': 'ever bought m',
      lapsed: 'lapsed m',
      paused: 'paused m',
      refunded: 'refunded m',
      audience: 'few',
      in: 'visitor.town in ["Ayr", "Oban"]',
      or: 'role r or bought m',
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
      pattern: { at: /^\/s\/[^/]+$/.test(address) ? '/s/:n' : '/s/:n+' },
      rank: { at: page, rank: 1 },
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
    exact: [{ from: '/old', to: address }],
    dated: [{ from: '/old', to: address, since: '2026-01-01', until: '2027-01-01' }],
    wait: [{ from: '/old', to: address, wait: '5s', say: 'It moved.' }],
    rank: [{ from: '/s/*', to: '/open', rank: 1, when: 'role s' }],
    chain: [
      { from: '/old', to: '/old/b' },
      { from: '/old/b', to: aliases[0] ?? address },
    ],
    loop: [{ from: address, to: `${address}?q=1`, when: 'not role s' }],
    'other host': [{ from: 'https://old.example/*', to: '/s/*' }],
    pattern: [{ from: '/old/*', to: '/s/*' }],
    query: [{ from: `${address}?q=1`, to: '/open' }],
    when: [{ from: address, to: '/open', when: 'role s' }],
    'unless-page': [
      {
        from: '/s/*',
        to: '/open',
        'unless-page': 'yes',
        ...(is(0.5) ? { kind: 'permanent' } : {}),
      },
    ],
    permanent: [{ from: '/old', to: address, kind: 'permanent' }],
    'to the alias': [{ from: '/old', to: aliases[0] ?? '/other', kind: 'permanent' }],
    'to the page': [{ from: '/old/:x', to: `${address}?x=:x` }],
    'from also': [{ from: 'https://www.t.example/old', to: aliases[0] ?? address }],
  }[pick('redirect')];
  const rewrite = {
    none: [],
    plain: [{ from: '/r/:x', serve: '/served' }],
    canonical: [{ from: '/s/:x', serve: '/served?x=:x', canonical: 'yes' }],
    'unless-page': [
      { from: '/s/:x', serve: '/served?x=:x', canonical: 'yes', 'unless-page': 'yes' },
    ],
    'to the page': [{ from: '/r', serve: address }],
    'from the alias': [{ from: aliases[0] ?? '/other', serve: '/served' }],
    when: [{ from: '/r/:x', serve: '/s/:x', when: condition() }],
    dated: [{ from: '/r', serve: address, since: '2026-01-01', until: '2027-01-01' }],
    'other server': [{ from: '/s/:x', serve: 'https://media.example/:x', 'unless-page': 'yes' }],
  }[pick('rewrite')];
  const missing = {
    none: [],
    words: [{ under: '/', say: 'Nothing at {rest}.' }],
    'words of path': [{ under: '/', say: 'Nothing. No {path.n} here.' }],
    page: [{ under: '/', show: '/open' }],
    '410': [{ under: '/s', say: 'Gone', status: 410 }],
  }[pick('missing')];
  const landing = {
    none: [],
    'at the page': [{ after: 'sign-in', go: address }],
    'at an old address': [{ after: 'sign-in', go: '/old' }],
    'return-first': [{ after: 'sign-in', go: '/open', 'return-first': 'yes' }],
  }[pick('landing')];
  const tidy = {
    none: {},
    endings: { endings: ['.html'] },
    index: { index: ['/home', 'index'] },
    'words -': { words: '-' },
    'words _': { words: '_' },
  }[words];
  return {
    home,
    page,
    address,
    aliases,
    traits,
    text: {
      kleidon: 1,
      site: {
        name: 'T',
        address: home,
        also: ['https://www.t.example'],
        'sign-in': '/in',
        servers: ['https://media.example'],
        'full-access': 'role full',
        'full-access-right': pick('full') === 'to view' ? 'view' : 'change',
        ungated: pick('ungated'),
        undeclared: pick('undeclared'),
        change: pick('change'),
        tidy: {
          case: isLower ? 'lower' : 'keep',
          'final-slash': pick('slash'),
          allow: [pick('allow')],
          ...tidy,
        },
      },
      roles: { r: 'R', s: 'S', full: 'F' },
      groups: { g: 'G' },
      audiences: { few: 'person kim or group g' },
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
          ...(has('from') ? { from: one('2026-01-01', '2027-01-01') } : {}),
          ...(has('until') ? { until: one('2026-01-01', '2028-01-01') } : {}),
          ...(has('file') ? { kind: 'file' } : {}),
          ...(has('leads away') ? { 'leads-to': 'https://far.example/x' } : {}),
          ...(pattern === 'exact' ? {} : { example: address }),
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
      landings: landing,
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

const START = Date.UTC(2026, 0, 1);
const MOMENTS: Record<string, number> = {
  before: START - 1,
  'at the date': START,
  between: NOW,
  after: Date.UTC(2027, 0, 1),
};
const bought = (traits: Partial<model.Purchase> = {}): model.Visitor =>
  someone({
    bought: [{ product: 'm', from: null, until: null, refunded: false, paused: false, ...traits }],
  });
const VISITORS: Record<string, model.Visitor> = {
  guest: { ...GUEST, language: 'de' },
  member: someone({ roles: ['r'] }),
  'two roles': someone({ roles: ['r', 's'], attributes: { town: 'Ayr' } }),
  person: someone({ id: 'kim', name: 'kim', groups: ['g'] }),
  buyer: bought(),
  lapsed: bought({ until: START }),
  paused: bought({ paused: true }),
  refunded: bought({ refunded: true }),
};

/** A request for the page, what leads to it, or what is around it, in some spelling. */
function requestByChance({ home, address: page, aliases }: Made): {
  request: Request;
  asked: string;
  spelling: string;
} {
  const asked = one(...DIMENSIONS.asked, 'old', 'served');
  const path = encodeURI(
    {
      page,
      alias: one(...aliases, '/other'),
      section: one('/s', '/s/x', '/t', '/t/x', '/s/b/x', `${page}.html`),
      old: one('/old', '/old', '/old/x', '/old/b', `/old/${page.slice(3)}`),
      served: one('/served', '/served?x=secret', '/served?x=caf%C3%A9', '/r', '/r/x', '/r/secret'),
      other: one('/', '/open', '/nothing', '/in', '/home', '/index'),
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
    'other host': `https://old.example${path.replace(/^\/s/, '')}`,
    'unknown host': `https://none.example${path}`,
    http: `${home.replace('https:', 'http:')}${path}`,
  }[spelling]!;
  return { request: { method: one(...DIMENSIONS.method), address }, asked, spelling };
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
  { address: page }: Made,
  { method, address }: Request,
  visitor: model.Visitor,
  moment: number,
): boolean {
  const { protocol, host, tidy } = gatesAlone.site;
  const query = /\?.*/.exec(address)?.[0] ?? '';
  const path = tidy.case === 'lower' ? page.toLowerCase() : page;
  const slash = tidy.finalSlash === 'add' ? '/' : '';
  const there = `${protocol}//${host}${encodeURI(path).replaceAll('%25', '%')}${slash}${query}`;
  const gates = decisions
    .decide(gatesAlone, { method, address: there, protocol: 'https:' as const }, visitor, moment)
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
      const met: Trait = {};
      for (let i = 0; i < 16; i++) {
        const { request, asked, spelling } = requestByChance(made);
        const [when, moment] = one(...Object.entries(MOMENTS));
        if (!isHidden(gatesAlone, made, request, visitor, moment)) continue;
        isHiddenFromSome = true;
        const decision = decisions.decide(full, request, visitor, moment);
        const decided = (prepared: decisions.PreparedSite) => ({
          ...answerOf(decisions.decide(prepared, request, visitor, moment)),
          // With `undeclared: website`, the alias of a hidden page counts as missing; see below.
          ...(prepared.site.undeclared === 'missing' && {
            landing: decisions.landing(prepared, 'sign-in', visitor, request.address, moment)
              .address,
          }),
        });
        const actual = decided(full);
        const expected = decided(bare);
        compared++;
        const used = usedRules(made.traits, decision);
        for (const rules of ['redirect', 'rewrite', 'missing'] as const)
          if (used[rules]![0] !== 'none') met[rules] = [...used[rules]!];
        pairs.add({
          ...used,
          visitor: [name],
          moment: [when],
          method: [request.method],
          asked: [asked],
          spelling: [spelling],
        });
        // A website that has what no page declares is not asked for the alias of a hidden page: it might serve the page.
        const isClosed =
          asked === 'alias' && actual.outcome === 'missing' && expected.outcome === 'reach';
        if (isClosed || isDeepStrictEqual(actual, expected)) continue;
        differing.push(
          JSON.stringify({ name, request, when, actual, expected, text: made.text }, null, 1),
        );
      }
      // One rule ends a decision; a visitor meets the others in the next one.
      pairs.add(met);
    }
    if (isHiddenFromSome) sites++;
  }
  const missed = pairs.missed(LEAST, isImpossible);
  if (LEAST > 0) report({ sites, compared, differing: differing.length, missed });
  expect(differing.slice(0, 1)).toEqual([]);
  expect(compared).toBeGreaterThan(SITES * 5);
  expect(missed).toEqual([]);
});

/** The traits of a site; rules count where the decision looked at them, and not where they only stand in the file. */
function usedRules(traits: Trait, { reasons }: decisions.Decision): Exercised {
  const stages = new Set(
    reasons.filter(({ code }) => !code.startsWith('no-re')).map(({ stage }) => stage),
  );
  const used = (stage: model.Reason['stage'], values: string[] | undefined): string[] =>
    stages.has(stage) ? values! : ['none'];
  return {
    ...traits,
    redirect: used('redirect', traits.redirect),
    rewrite: used('rewrite', traits.rewrite),
    missing: used('not-found', traits.missing),
  };
}

/**
 * What cannot occur together: a gate that is not in force, a step that never hides, an alias of a pattern, a pattern that
 * takes the name of an index; and a rule at an address that is not its own.
 */
const isImpossible = (one: string, other: string): boolean =>
  (/^(?:redirect|rewrite|missing): /.test(one) && /^(?:asked|spelling): /.test(other)) ||
  (one === 'tidy: index' && other === 'pattern: class') ||
  (one === 'scope: dated' && /^moment: (?:before|after)/.test(other)) ||
  (one === 'otherwise: hide for guests' && /^visitor: (?!guest)/.test(other)) ||
  (one === 'otherwise: second entry' && other === 'visitor: two roles') ||
  (/^pattern: (?!exact)/.test(one) && /^page: .*alias/.test(other));
