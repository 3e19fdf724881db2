import { decisions, type model, queries } from '../src/index.ts';
import { errorsOf, GUEST, NOW, siteOf, someone, textsOf } from './support.ts';

const ask = (
  site: decisions.PreparedSite,
  address: string,
  visitor: model.Visitor = GUEST,
  method = 'GET',
  at = NOW,
): decisions.Decision => decisions.decide(site, { method, address }, visitor, at);
const brief = ({ outcome, status, location }: decisions.Decision) => [outcome, status, location];

const volunteer = someone({ roles: ['volunteer'] });
const warden = someone({ roles: ['warden'] });
const admin = someone({ roles: ['admin'] });
const HEAD = `kleidon: 1
site: { name: T, address: https://t.example, also: [https://www.t.example], sign-in: /sign-in, full-access: role admin }
roles: { volunteer: x, warden: x, admin: x }
products:
  permit: { title: Permit, buy-at: /shop/permit }
  pass: { title: Day pass, buy-at: /shop/pass }
audiences: { crew: role volunteer or role warden }
`;
const site = (body: string): decisions.PreparedSite => siteOf(body, HEAD);

describe('a decision', () => {
  test('goes through its stages in the order of the table, and each leaves a reason', () => {
    const decision = ask(site('pages: { /a: A }'), '/a');
    expect(decision.reasons.map(({ stage }) => stage)).toEqual([
      'address',
      'host',
      'https',
      'redirect',
      'tidy',
      'rewrite',
      'gate',
      'page',
      'answer',
    ]);
  });

  test('is plain data, and the same each time', () => {
    const prepared = site('pages: { /a: A }');
    expect(JSON.parse(JSON.stringify(ask(prepared, '/a')))).toEqual(ask(prepared, '/a'));
  });
});

describe('hosts and HTTPS', () => {
  const prepared = site(
    'pages: { /a: A }\nredirects: [{ from: "https://old.example/*", to: "/*" }]',
  );
  test.each([
    ['https://www.t.example/a?x=1', 'redirect', 308, 'https://t.example/a?x=1'],
    ['http://t.example/a', 'redirect', 308, 'https://t.example/a'],
    ['https://old.example/a', 'redirect', 302, 'https://t.example/a'],
    ['https://else.example/a', 'invalid', 421, null],
  ])('%s is %s %i %s', (address, ...expected) => {
    expect(brief(ask(prepared, address))).toEqual(expected);
  });

  test('the pages of this site are not to be had at the hosts of others', () => {
    const two = site('pages: { /a: A }\nredirects: [{ from: "https://old.example/b", to: /a }]');
    expect(brief(ask(two, 'https://old.example/a'))).toEqual(['missing', 404, null]);
  });

  test('one page of an http site may require HTTPS', () => {
    const http = siteOf(
      'pages:\n  /a: A\n  /pay: { https: required }',
      'kleidon: 1\nsite: { name: T, address: http://t.example }\n',
    );
    expect(brief(ask(http, '/pay'))).toEqual(['redirect', 308, 'https://t.example/pay']);
    expect(ask(http, '/a').outcome).toBe('reach');
    expect(ask(http, 'https://t.example/pay').outcome).toBe('reach');
  });
});

describe('redirects', () => {
  test.each([
    ['kind: permanent', 'GET', 301],
    ['kind: permanent', 'HEAD', 301],
    ['kind: permanent', 'POST', 308],
    ['kind: temporary', 'GET', 302],
    ['kind: temporary', 'PUT', 307],
    ['query: drop', 'GET', 302],
  ])('%s asked with %s is %i', (field, method, status) => {
    expect(
      ask(site(`redirects: [{ from: /a, to: /b, ${field} }]`), '/a?x=1', GUEST, method).status,
    ).toBe(status);
  });

  test('the query is kept only where that is said', () => {
    expect(ask(site('redirects: [{ from: /a, to: /b, query: keep }]'), '/a?x=1').location).toBe(
      '/b?x=1',
    );
    expect(ask(site('redirects: [{ from: /a, to: /b }]'), '/a?x=1').location).toBe('/b');
  });

  test('dates, conditions and existing pages are respected, and the reason says which', () => {
    const prepared = site(`
pages: { /here: Here }
redirects:
  - { from: /late, to: /x, until: 2026-11-01 }
  - { from: /early, to: /x, since: 2027-01-01 }
  - { from: /some, to: /x, when: crew }
  - { from: /here, to: /x, unless-page: yes }`);
    const why = (address: string) =>
      textsOf(ask(prepared, address).reasons.filter(({ verdict }) => verdict === 'skipped'))[0];
    expect(why('/late')).toBe('The redirect from /late ended on 2026-11-01.');
    expect(why('/early')).toBe('The redirect from /early begins on 2027-01-01.');
    expect(why('/some')).toBe(
      'The redirect from /some is for crew, and Gale (guest) is not among them.'.replace(
        'Gale (guest)',
        'a guest',
      ),
    );
    expect(why('/here')).toBe(
      'The redirect from /here applies only where there is no page, and there is one.',
    );
    expect(ask(prepared, '/here').outcome).toBe('reach');
    expect(ask(prepared, '/late', GUEST, 'GET', Date.UTC(2026, 9, 1)).location).toBe('/x');
  });

  test('the most specific one applies, and the reasons name the losers', () => {
    const { location, reasons } = ask(
      site('redirects: [{ from: "/a/*", to: /wide }, { from: "/a/:x", to: /near }]'),
      '/a/b',
    );
    expect(location).toBe('/near');
    expect(reasons.map(({ rule, verdict }) => [rule, verdict])).toContainEqual([
      'redirect /a/*',
      'skipped',
    ]);
  });

  test('one that depends on who asks is never permanent or stored', () => {
    const prepared = site(
      'redirects: [{ from: /a, to: /b, when: crew, kind: permanent }, { from: /a, to: /c, kind: permanent }]',
    );
    for (const visitor of [GUEST, warden]) {
      const { status, headers } = ask(prepared, '/a', visitor);
      expect([status, headers['Cache-Control']]).toEqual([302, 'private, no-store']);
    }
  });

  test('one to another site ends as away', () => {
    expect(brief(ask(site('redirects: [{ from: /a, to: https://x.example/y }]'), '/a'))).toEqual([
      'away',
      302,
      'https://x.example/y',
    ]);
  });
});

describe('gates', () => {
  const prepared = site(`
pages: { /crew: Crew, /crew/rota: Rota, /crew/open: Open, /my/:person: Mine, /staff: Staff }
gates:
  crew: { under: /crew, admit: crew, otherwise: [{ who: guest, do: sign-in }, { who: anyone, do: refuse, say: 'No.' }] }
  open: { at: /crew/open, admit: anyone }
  edit: { at: /crew/rota, right: change, admit: role warden }
  own: { under: /my/:person, admit: visitor.id = path.person, otherwise: [{ do: hide }] }
  staff: { under: /staff, admit: nobody, otherwise: [{ do: send, to: /join }] }
not-found: [{ under: /, show: /lost }]`);

  test.each([
    ['/crew', GUEST, ['sign-in', 303, '/sign-in?return=%2Fcrew']],
    ['/crew?x=1&y', GUEST, ['sign-in', 303, '/sign-in?return=%2Fcrew%3Fx%3D1%26y']],
    ['/crew', someone(), ['block', 403, null]],
    ['/crew', volunteer, ['reach', 200, null]],
    ['/crew/open', GUEST, ['reach', 200, null]],
    ['/crew/nothing', GUEST, ['sign-in', 303, '/sign-in?return=%2Fcrew%2Fnothing']],
    ['/crew/nothing', volunteer, ['missing', 404, null]],
    ['/my/sam', someone(), ['reach', 200, null]],
    ['/my/else', someone(), ['missing', 404, null]],
    ['/staff', someone(), ['block', 303, '/join']],
    ['/staff', admin, ['reach', 200, null]],
  ])('%s', (address, visitor, expected) => {
    expect(brief(ask(prepared, address, visitor))).toEqual(expected);
  });

  test('the right to change is asked apart, and follows view where it has no gate', () => {
    expect(ask(prepared, '/crew/rota', volunteer, 'POST').outcome).toBe('block');
    expect(ask(prepared, '/crew/rota', warden, 'POST').outcome).toBe('reach');
    expect(ask(prepared, '/crew', volunteer, 'DELETE').outcome).toBe('reach');
    expect(ask(prepared, '/crew', GUEST, 'PUT').outcome).toBe('sign-in');
  });

  test('with "gated-only" nobody changes what no gate for change admits them to', () => {
    const strict = siteOf(
      'pages: { /a: A, /b: B }\ngates: { b: { at: /b, right: change, admit: signed-in } }',
      'kleidon: 1\nsite: { name: T, address: https://t.example, change: gated-only }\n',
    );
    expect(ask(strict, '/a', someone(), 'POST').outcome).toBe('block');
    expect(ask(strict, '/b', someone(), 'POST').outcome).toBe('reach');
    expect(ask(strict, '/a').outcome).toBe('reach');
  });

  test('full access is marked wherever it made the difference', () => {
    expect(ask(prepared, '/staff', admin).fullAccess).toBe(true);
    expect(ask(prepared, '/crew/open', admin).fullAccess).toBe(false);
  });

  test('a hidden page and a missing one are answered alike', () => {
    const hidden = ask(prepared, '/my/else', someone());
    const missing = ask(prepared, '/nothing', someone());
    expect([hidden.status, hidden.content, hidden.page]).toEqual([
      missing.status,
      missing.content,
      missing.page,
    ]);
  });

  test('an answer that depends on who asks is private', () => {
    expect(ask(prepared, '/crew', volunteer).headers).toEqual({
      'Cache-Control': 'private, no-store',
      Vary: 'Cookie',
    });
    expect(ask(prepared, '/crew/open').headers).toEqual({});
  });

  test('a site that is closed admits only who is signed in', () => {
    const closed = siteOf(
      'pages: { /a: A }',
      'kleidon: 1\nsite: { name: T, address: https://t.example, ungated: closed, sign-in: /in }\n',
    );
    expect(brief(ask(closed, '/a'))).toEqual(['sign-in', 303, '/in?return=%2Fa']);
    expect(ask(closed, '/a', someone()).outcome).toBe('reach');
  });

  test('only the products that would admit are offered', () => {
    const shop = site(`
pages: { /map: Map }
gates:
  one: { at: /map, admit: bought permit, otherwise: [{ do: offer }] }
  two: { at: /both, admit: bought permit or bought pass, otherwise: [{ do: offer }] }
  all: { at: /all, admit: bought permit and bought pass, otherwise: [{ do: offer }] }`);
    expect(brief(ask(shop, '/map'))).toEqual(['block', 303, '/shop/permit?return=%2Fmap']);
    expect(ask(shop, '/both').content).toMatchObject({
      is: 'offers',
      choices: [[{ product: 'permit' }], [{ product: 'pass' }]],
    });
    expect(brief(ask(shop, '/all'))).toEqual(['block', 403, null]);
    expect(ask(shop, '/all').content).toMatchObject({
      choices: [[{ product: 'permit' }, { product: 'pass' }]],
    });
    const refused = ask(shop, '/all').reasons.filter(({ verdict }) => verdict === 'refused');
    expect(textsOf(refused)[0]).toContain(': offered ');
    const hasPass = someone({
      bought: [{ product: 'pass', from: null, until: null, refunded: false, paused: false }],
    });
    expect(brief(ask(shop, '/all', hasPass))).toEqual(['block', 303, '/shop/permit?return=%2Fall']);
  });

  test.each([
    '/%',
    '//x',
    '/crew%2frota',
    '/CREW/../crew/rota',
    '/crew/%2e%2e/crew',
    '/%63rew',
    '/CREW',
    '/crew/',
    '//crew',
    '/crew//rota',
    '/./crew',
    '/crew%00',
    '/crew\u0000',
    '/crew;x',
    '/crew\\rota',
    `/${'a'.repeat(10_000)}`,
    `/crew/${'a/'.repeat(3000)}`,
    '/crew%252frota',
    '/cr%65w/rota',
    'https://t.example:443/crew',
    'HTTPS://T.EXAMPLE/crew',
    'https://t.example/crew@x',
    '/crew?/open',
    '/crew/open/../rota',
    '/crew/open%2f..%2frota',
    '/\u212Arew',
    '/crew#',
    '*',
    '',
  ])('no spelling gets past a gate: %j', (address) => {
    const { outcome, hops } = decisions.visit(prepared, { method: 'GET', address }, GUEST, NOW);
    expect(['sign-in', 'invalid', 'missing']).toContain(outcome);
    expect(hops.some(({ decision }) => decision.status >= 500)).toBe(false);
  });
});

describe('pages', () => {
  const prepared = site(`
pages:
  /soon: { from: 2027-01-01 }
  /over: { until: 2026-11-23 }
  /draft: { draft: yes }
  /l/:n: { missing-unless: path.n >= 1 and path.n <= 12 }
  /l/special: Special
  /tides: { leads-to: https://tides.example/ }
  /lead: { leads-to: /l/1 }
not-found:
  - { under: /l, say: 'No lesson {path.n}.' }
  - { under: /gone, say: Gone., status: 410 }`);

  test.each([
    ['/soon', 'missing', 404],
    ['/over', 'missing', 404],
    ['/draft', 'missing', 404],
    ['/l/12', 'reach', 200],
    ['/l/13', 'missing', 404],
    ['/l/special', 'reach', 200],
    ['/gone/by', 'missing', 410],
    ['/tides', 'away', 302],
    ['/lead', 'redirect', 302],
  ])('%s is %s %i', (address, outcome, status) => {
    expect(ask(prepared, address)).toMatchObject({ outcome, status });
  });

  test('a draft is there for those with full access, and so depends on who asks', () => {
    expect(ask(prepared, '/draft', admin).outcome).toBe('reach');
    expect(ask(prepared, '/draft').headers['Cache-Control']).toBe('private, no-store');
  });

  test('the words of a not-found rule are filled from the address', () => {
    expect(ask(prepared, '/l/caf%C3%A9').content).toEqual({ is: 'words', text: 'No lesson café.' });
  });
});

describe('gates that narrow, and gates for a time', () => {
  const prepared = site(`
pages: { /club: Club, /club/board: Board, /club/board/minutes: Minutes, /fair: Fair }
gates:
  club: { under: /club, admit: signed-in, otherwise: [{ do: sign-in }] }
  board: { under: /club/board, admit: role warden or guest, narrows: yes, otherwise: [{ do: hide }] }
  fair: { at: /fair, admit: nobody, until: 2026-12-01, from: 2026-11-01 }`);

  test.each([
    ['/club/board', GUEST, 'sign-in'],
    ['/club/board', volunteer, 'missing'],
    ['/club/board', warden, 'reach'],
    ['/club/board/minutes', volunteer, 'missing'],
    ['/club', volunteer, 'reach'],
    ['/club/board', admin, 'reach'],
  ])('%s', (address, visitor, outcome) => {
    expect(ask(prepared, address, visitor).outcome).toBe(outcome);
  });

  test('every gate that had a say leaves a reason, the outermost first', () => {
    const gates = ask(prepared, '/club/board', warden).reasons.filter(
      ({ stage }) => stage === 'gate',
    );
    expect(gates.map(({ rule, verdict }) => [rule, verdict])).toEqual([
      ['gate club', 'admitted'],
      ['gate board', 'admitted'],
    ]);
  });

  test('outside its dates a gate has no say, and the reason says so', () => {
    expect(ask(prepared, '/fair').outcome).toBe('sign-in');
    const after = ask(prepared, '/fair', GUEST, 'GET', Date.UTC(2026, 11, 1));
    expect(after.outcome).toBe('reach');
    expect(textsOf(after.reasons)).toContain('The gate fair ended on 2026-12-01.');
  });
});

test('a gate for changes that has ended leaves the page to the gate for viewing, and never open', () => {
  const body = `pages: { /p: P }
gates:
  v: { at: /p, admit: role warden }
  c: { at: /p, right: change, admit: role volunteer, until: 2026-11-01 }`;
  const before = Date.UTC(2026, 9, 1);
  expect(ask(site(body), '/p', volunteer, 'POST', before).outcome).toBe('reach');
  expect(ask(site(body), '/p', volunteer, 'POST').outcome).toBe('block');
  expect(ask(site(body), '/p', warden, 'POST').outcome).toBe('reach');
  expect(queries.whoReaches(site(body), '/p', NOW, 'change')!.words).toBe(
    'anyone with the role warden',
  );
  const gatedOnly = siteOf(
    body,
    HEAD.replace('sign-in: /sign-in', 'sign-in: /sign-in, change: gated-only'),
  );
  expect(ask(gatedOnly, '/p', warden, 'POST').outcome).toBe('block');
  expect(queries.whoReaches(gatedOnly, '/p', NOW, 'change')!.words).toBe('nobody');
});

test('a page may ask to be asked for again, and not to be listed', () => {
  const { headers } = ask(site('pages: { /a: { refresh: 5m, listed: no } }'), '/a');
  expect(headers).toEqual({ Refresh: '300', 'X-Robots-Tag': 'noindex' });
});

test('words where nothing is have pieces of the address, and the steps beyond the section', () => {
  const prepared = site(
    `pages: { /: Home, "/course/:lesson": { missing-unless: path.lesson <= 12 } }
not-found: [{ under: /course, say: "No lesson {path.lesson}; {rest}. See {rest}; {rest.1} and {rest.2}; {other}. Lost? You asked {query.q}." }]`,
  );
  const words = (address: string) => ask(prepared, address).content;
  expect(words('/course/13')).toEqual({
    is: 'words',
    text: 'No lesson 13; 13. Lost?',
  });
  const odd = site(
    'pages: { /: Home }\nnot-found: [{ under: /, say: "None. {path.constructor}." }]',
  );
  expect(ask(odd, '/x').content).toEqual({ is: 'words', text: 'None.' });
  expect(words('/course/13?q=%3Cb%3E%26')).toMatchObject({
    text: 'No lesson 13; 13. Lost? You asked <b>&.',
  });
  expect(words('/course/caf%C3%A9/%3Cb%3E')).toEqual({
    is: 'words',
    text: 'See café/<b>; café and <b>; {other}. Lost?',
  });
});

describe('redirects by query', () => {
  const prepared = site(`pages: { /: Home, "/people/:name": P, /log: Log, /activity: A }
redirects:
  - { from: "/activity?person=:name", to: "/people/:name", kind: permanent, keep-for: 2m }
  - { from: "/activity?tab=log&all=*", to: /log, query: keep }
  - { from: /old, to: "/people/robin?from=old#top", kind: permanent }
`);
  const led = (address: string) => ask(prepared, address).location;

  test.each([
    ['/activity?person=robin', '/people/robin'],
    ['/activity?x=1&person=Caf%C3%A9', '/people/caf%C3%A9'],
    ['/activity?person=a%2Fb', null],
    ['/activity?person=..', null],
    ['/activity?person=', null],
    ['/activity?tab=log&all=&x=1&x=2', '/log?x=1&x=2'],
    ['/activity?tab=log', null],
    ['/activity', null],
    ['/old?y=1', '/people/robin?from=old#top'],
  ])('%s leads to %s', (address, location) => {
    expect(led(address)).toBe(location);
  });

  test('a permanent one is kept for as long as it says', () => {
    const { status, headers } = ask(prepared, '/activity?person=robin');
    expect([status, headers['Cache-Control']]).toEqual([301, 'public, max-age=120']);
    expect(ask(prepared, '/old').headers['Cache-Control']).toBe('public, max-age=3600');
  });

  test('a query that says nothing is an error', () => {
    expect(errorsOf('redirects: [{ from: "/a?b", to: /c }]')[0]!.message).toContain('"?b"');
  });
});

describe('the whole site is the least specific of all sections', () => {
  const whole = site(`pages: { /: Home, /x: X, /crew: Crew, /crew/y: Y }
gates:
  all: { under: /, admit: nobody }
  crew: { under: /crew, admit: anyone }
  any: { under: '/:one/y', admit: nobody }
not-found:
  - { under: /, say: Nothing at all }
  - { under: /x, say: Nothing under x }`);

  test.each([
    ['/', 'sign-in'],
    ['/x', 'sign-in'],
    ['/crew', 'reach'],
    ['/crew/y', 'reach'],
  ])('%s: %s', (address, outcome) => {
    expect(ask(whole, address).outcome).toBe(outcome);
  });

  test('so that the nearest not-found rule applies', () => {
    const open = site(
      'pages: { /x: X }\nnot-found: [{ under: /, say: all }, { under: /x, say: near }]',
    );
    expect(ask(open, '/x/y').content).toEqual({ is: 'words', text: 'near' });
    expect(ask(open, '/z').content).toEqual({ is: 'words', text: 'all' });
  });
});
