import { decisions, type model, queries } from '../src/index.ts';
import { errorsOf, GUEST, NOW, siteOf, someone, textsOf } from './support.ts';

const site = (
  body: string,
  { site: fields = '', address = 'https://t.example' }: { site?: string; address?: string } = {},
) =>
  siteOf(
    `roles: { keeper: K }\naudiences: { crew: role keeper }\n${body}`,
    `kleidon: 1\nsite: { name: T, address: ${address}${fields} }\n`,
  );
const PAGES = 'pages: { /: Home, /a: A, /b: B }\n';
const decided = (
  on: ReturnType<typeof site>,
  address: string,
  { who = GUEST, method = 'GET' }: { who?: model.Visitor; method?: string } = {},
) => decisions.decide(on, { method, address }, who, NOW);
const visited = (on: ReturnType<typeof site>, address: string, who = GUEST, method = 'GET') =>
  decisions.visit(on, { method, address }, who, NOW);
const keeper = someone({ roles: ['keeper'] });

describe('several values, dates and lists in conditions', () => {
  const admits = (admit: string, address: string, who = GUEST) =>
    decided(
      site(
        `pages: { '/p/:x': { title: P, example: /p/1 } }\ngates: { g: { at: '/p/:x', admit: '${admit}' } }`,
      ),
      address,
      { who },
    ).outcome === 'reach';
  const tagged = someone({ attributes: { t: ['x', 'banned'], empty: [], town: 'Ayr' } });

  test.each([
    ['not visitor.t in ["banned"]', false],
    ['visitor.t in ["banned"]', true],
    ['visitor.t in ["other", "x"]', true],
    ['visitor.t in ["other"]', false],
    ['"banned" in visitor.t', true],
    ['"Ayr" in visitor.town', true],
    ['path.x = visitor.t', true],
    ['visitor.t = path.x', true],
    ['visitor.t != "banned"', false],
    ['visitor.t != "other"', true],
    ['visitor.empty != "other"', false],
    ['visitor.none != "other"', false],
  ])('%s: %s', (condition, is) => {
    expect(admits(condition, '/p/x', tagged)).toBe(is);
  });

  test.each([
    ['path.x >= 2020-01-01', 'foo', false],
    ['path.x < 2020-01-01', 'foo', false],
    ['path.x = 2020-01-01', 'foo', false],
    ['path.x != 2020-01-01', 'foo', true],
    ['path.x >= 2020-01-01', '2020-01-01', true],
    ['path.x in [2020-01-01, 2020-01-02]', '2020-01-02', true],
    ['path.x >= 5', 'foo', false],
    ['path.x < "b"', 'a', true],
  ])('%s, of %s: %s', (condition, value, is) => {
    expect(admits(condition, `/p/${value}`)).toBe(is);
  });

  test.each([
    'visitor.t = ["Ayr"]',
    '["Ayr"] = visitor.t',
    '["Ayr"] in visitor.t',
    'visitor.t < [1]',
  ])('%s is an error', (condition) => {
    const [error] = errorsOf(`pages: { /: H }\ngates: { g: { at: /, admit: '${condition}' } }`);
    expect(error).toMatchObject({ code: 'condition' });
    expect(error?.message).toContain('compares one value with another');
  });
});

test('a gate that asks to sign in on a site without a page for it refuses', () => {
  const on = site(
    `${PAGES}gates: { g: { at: /a, admit: crew, otherwise: [{ who: anyone, do: sign-in }] } }`,
  );
  expect(decided(on, '/a')).toMatchObject({ outcome: 'block', status: 403, location: null });
  expect(visited(on, '/a', keeper).outcome).toBe('reach');
});

test('what is served is judged by the query that it is served with, by gates and by the page itself', () => {
  const on = site(
    `pages: { /a: A, /b: { title: B, missing-unless: 'query.q = "1"' } }
rewrites: [{ from: /a, serve: '/b?q=1' }]
gates: { g: { at: /b, admit: 'query.q = "1"' } }`,
  );
  expect(decided(on, '/a').outcome).toBe('reach');
  expect(decided(on, '/a?q=2').outcome).toBe('reach');
});

describe('permanent redirects', () => {
  const sent = (redirect: string, address = '/old', who = GUEST) => {
    const { status, headers } = decided(site(`${PAGES}redirects: [${redirect}]`), address, { who });
    return [status, headers['Cache-Control'], headers['Vary']];
  };
  const inMinutes = (minutes: number) => new Date(NOW + minutes * 60_000).toISOString();

  test.each([
    [`{ from: /old, to: /a, kind: permanent }`, [301, 'public, max-age=3600', undefined]],
    [
      `{ from: /old, to: /a, kind: permanent, when: anyone }`,
      [301, 'public, max-age=3600', undefined],
    ],
    [
      `{ from: /old, to: /a, kind: permanent, when: 'query.q = "1"' }`,
      [302, 'private, no-store', undefined],
    ],
    [
      `{ from: /old, to: /a, kind: permanent, when: 'language = "en"' }`,
      [302, 'private, no-store', 'Accept-Language'],
    ],
    [
      `{ from: /old, to: /a, kind: permanent, until: ${inMinutes(5)} }`,
      [301, 'public, max-age=300', undefined],
    ],
    [
      `{ from: /old, to: /a, kind: permanent, keep-for: 24h, until: ${inMinutes(120)} }`,
      [301, 'public, max-age=7200', undefined],
    ],
    [
      `{ from: /old, to: /a, kind: permanent, keep-for: 24h }`,
      [301, 'public, max-age=86400', undefined],
    ],
  ])('%s', (redirect, expected) => {
    expect(sent(redirect, '/old?q=1', { ...GUEST, language: 'en' })).toEqual(expected);
  });

  test('the one beside it that is for a language is named in Vary', () => {
    const both = `{ from: /old, to: /b, when: 'language = "gd"' }, { from: /old, to: /a, kind: permanent }`;
    expect(sent(both, '/old', { ...GUEST, language: 'en' })).toEqual([
      302,
      undefined,
      'Accept-Language',
    ]);
  });

  test('whether a page is there for someone is not asked for HTTPS', () => {
    const on = site(
      `pages: { /: Home, /a: { title: A, missing-unless: crew }, /old: { title: O, missing-unless: crew } }
redirects: [{ from: /old, to: /a, kind: permanent }]`,
      { address: 'http://t.example' },
    );
    expect(decided(on, '/old').status).toBe(301);
  });
});

describe('how a visit ends', () => {
  test('at a missing page that a gate sent someone to: blocked', () => {
    const on = site(
      `${PAGES}gates: { g: { at: /a, admit: crew, otherwise: [{ who: anyone, do: send, to: /gone }] } }`,
    );
    expect(visited(on, '/a')).toMatchObject({ outcome: 'block', status: 404, final: '/gone' });
  });

  test('a page that leads elsewhere keeps the method of a form', () => {
    const on = site('pages: { /: Home, /a: { title: A, leads-to: /b }, /b: B }');
    expect(visited(on, '/a', GUEST, 'POST').hops.map(({ decision }) => decision.status)).toEqual([
      307, 200,
    ]);
    expect(decided(on, '/a').status).toBe(302);
  });

  test.each([
    ['/%61', '/a'],
    ['/x/../a', '/a'],
    ['/x/%2e%2e/a', '/a'],
    ['/%c3%a9', '/%C3%A9'],
    ['https://t.example/%61?x=%61', '/a?x=%61'],
  ])('%s is redirected to its one form, once', (address, location) => {
    const on = site(`pages: { /a: A, /é: E }`);
    expect(decided(on, address)).toMatchObject({ status: 301, location });
    expect(visited(on, address)).toMatchObject({ outcome: 'reach' });
    expect(visited(on, address).hops).toHaveLength(2);
  });

  test.each(['/%20x', '/%C3%A9', '/é', '/a?x=%61', '/%5Ex'])('%s is its one form', (address) => {
    const on = site(`pages: { /a: A, /é: E, '/%20x': S, '/%5Ex': C }`);
    expect(decided(on, address).outcome).toBe('reach');
  });

  test('an alias with a redirect of its own, by whatever way one comes to it', () => {
    const on = site(
      `pages: { /: Home, /a: { title: A, aliases: [/other] }, /b: B }
redirects: [{ from: /other, to: /b }, { from: /old, to: /other }]`,
    );
    expect(visited(on, '/other').final).toBe('/b');
    expect(visited(on, '/old').final).toBe('/b');
  });

  test('whoever changes something by full access alone is marked', () => {
    const on = site(PAGES, { site: ', change: gated-only, full-access: role keeper' });
    expect(decided(on, '/a', { method: 'POST', who: keeper })).toMatchObject({
      outcome: 'reach',
      fullAccess: true,
    });
  });

  test('a rewrite that has ended is in no way of another one', () => {
    const on = site(
      `pages: { /: Home, /p: P }
rewrites:
  - { from: '/:n(robin)', serve: '/p?n=:n', until: 2020-01-01 }
  - { from: '/:n', serve: '/p?n=:n', canonical: yes }`,
    );
    expect(decided(on, '/p?n=robin').location).toBe('/robin');
  });

  test('no ending is dropped where a dot would be left', () => {
    const on = site('pages: { /a: A }', { site: ', tidy: { endings: [.html] }' });
    for (const address of ['/a/b/...html', '/a/x..html'])
      expect(decided(on, address)).toMatchObject({ outcome: 'missing', location: null });
    expect(decided(on, '/a.html')).toMatchObject({ location: '/a' });
  });

  test('another address of the home page is the home page before any redirect', () => {
    const on = site(`${PAGES}redirects: [{ from: '/:x', to: /b, unless-page: yes }]`, {
      site: ', tidy: { index: [/home] }',
    });
    expect(visited(on, '/home')).toMatchObject({ outcome: 'reach', final: '/' });
    expect(visited(on, '/Home/').hops).toHaveLength(2);
  });

  describe('on other hosts', () => {
    const on = site(
      `${PAGES}redirects: [{ from: 'https://old.example/x', to: /a }, { from: 'https://www.t.example/y', to: /b }]
gates: { g: { under: /, admit: crew } }
not-found: [{ under: /, say: Nothing }]`,
      { site: ', also: [https://www.t.example], sign-in: /a' },
    );
    test.each([
      ['https://old.example/x', 302, 'https://t.example/a'],
      ['https://www.t.example/y', 302, 'https://t.example/b'],
      ['https://www.t.example/b', 308, 'https://t.example/b'],
    ])('%s', (address, status, location) => {
      expect(decided(on, address)).toMatchObject({ status, location });
    });
    test('that redirects alone name, nothing else is there', () => {
      expect(decided(on, 'https://old.example/a')).toMatchObject({
        outcome: 'missing',
        status: 404,
        location: null,
        content: null,
      });
    });
  });
});

test.each([
  [String.raw`'/n/:id(\d{3})'`, /^\/n\/\d{3}$/],
  [String.raw`'/:lang(en|gd)/:year(19\d\d|20\d\d)'`, /^\/(?:en|gd)\/(?:19|20)\d\d$/],
  [String.raw`'/f/:file([a-z]+\.pdf)'`, /^\/f\/[a-z]+\.pdf$/],
])('the page at %s is visited at an address of its own', (address, expected) => {
  const on = site(`pages: { ${address}: { title: N } }`);
  expect(on.site.pages[0]!.example).toMatch(expected);
  expect(decided(on, on.site.pages[0]!.example).outcome).toBe('reach');
});

describe('addresses that no page has, where the website is asked', () => {
  const on = site(
    `pages: { /: Home, /sign-in: S, /draft: { title: D, draft: yes }, /b: { title: B, missing-unless: nobody } }
gates: { members: { under: /members, admit: crew } }
redirects: [{ from: /old, to: /new }, { from: /a, to: /c, unless-page: yes }]
not-found: [{ under: /, show: /lost }]
landings: [{ after: sign-in, go: /welcome }]
rewrites: [{ from: '/r/:x', serve: '/app?x=:x' }]`,
    { site: ', undeclared: website, sign-in: /sign-in' },
  );

  test.each([
    ['/style.css', 'reach'],
    ['/api/things?id=1', 'reach'],
    ['/members/style.css', 'sign-in'],
    ['/r/7', 'reach'],
    ['/draft', 'missing'],
    ['/b', 'missing'],
  ])('%s: %s', (address, outcome) => {
    expect(decided(on, address)).toMatchObject({ outcome });
  });

  test('say so', () => {
    const { page, status, reasons } = decided(on, '/style.css');
    expect([page, status]).toEqual([null, 200]);
    expect(textsOf(reasons)).toContain(
      'No page is declared here. The website decides what is there.',
    );
    expect(decided(on, '/login', { method: 'POST' }).outcome).toBe('reach');
    expect(decided(on, '/members/x', { who: keeper }).headers['Cache-Control']).toBe(
      'private, no-store',
    );
    expect(decided(on, 'https://other.example/x').status).toBe(421);
  });

  test('are no findings, except where rules lead to them', () => {
    const codes = new Set(queries.inspect(on, 'x', NOW).map(({ code }) => code));
    expect([...codes]).toEqual(['nobody-reaches', 'target-undeclared']);
    const missing = site(
      `pages: { /: Home, /sign-in: S }
gates: { members: { under: /members, admit: crew } }
redirects: [{ from: /old, to: /new }]`,
      { site: ', sign-in: /sign-in' },
    );
    expect(queries.inspect(missing, 'x', NOW).map(({ code }) => code)).toEqual([
      'gate-covers-nothing',
      'redirect-dead-end',
    ]);
  });
});

test('a page that the grid leaves out is decided as any other', () => {
  const on = site(
    `pages: { /: Home, /sign-out: { title: O, grid: no } }\nvisitors: { v: { guest: yes } }`,
  );
  const { rows } = decisions.grid(on, on.site.visitors, NOW);
  expect(rows.map(({ address }) => address)).toEqual(['/']);
  expect(decided(on, '/sign-out').outcome).toBe('reach');
});

describe('full access', () => {
  const gates = `gates:
  view: { at: /a, admit: nobody }
  own: { at: /b, admit: nobody, full-access: no }
  change: { at: /, right: change, admit: nobody }`;
  const of = (right: string) => site(PAGES + gates, { site: `, full-access: role keeper${right}` });

  test.each([
    ['', '/a', 'GET', 'reach'],
    ['', '/', 'POST', 'reach'],
    ['', '/b', 'GET', 'block'],
    ['', '/b', 'POST', 'block'],
    [', full-access-right: view', '/a', 'GET', 'reach'],
    [', full-access-right: view', '/a', 'POST', 'block'],
    [', full-access-right: view', '/', 'POST', 'block'],
    [', full-access-right: change', '/', 'POST', 'reach'],
  ])('%s: %s by %s ends as %s', (right, address, method, outcome) => {
    expect(decided(of(right), address, { method, who: keeper }).outcome).toBe(outcome);
  });

  test('is told of a page only where it passes', () => {
    const on = of(', full-access-right: view');
    const told = (address: string, right: 'view' | 'change') =>
      queries.whoReaches(on, address, NOW, right)?.byFullAccess;
    expect([told('/a', 'view'), told('/b', 'view'), told('/', 'change')]).toEqual([
      'anyone with the role keeper',
      null,
      null,
    ]);
  });
});

test('`who` of an entry of `otherwise` may depend on the address', () => {
  const on = site(
    `pages: { '/p/:x': { title: P, example: /p/1 } }
gates: { g: { at: '/p/:x', admit: nobody, otherwise: [{ who: 'path.x = "1"', do: hide }] } }`,
  );
  expect([decided(on, '/p/1').outcome, decided(on, '/p/2').outcome]).toEqual(['missing', 'block']);
});

describe('addresses that are remembered', () => {
  const large = siteOf(
    'pages: { "/n/:x": N }\nredirects: [{ from: "/o/:x", to: "/n/:x", query: keep }]',
  );
  const known = (text: string) => large.recent.get(text) !== undefined;
  const ask = (address: string) => decisions.decide(large, { method: 'GET', address }, GUEST, NOW);

  test('are the ones of late, and no long ones', () => {
    const asked = Array.from({ length: 10_000 }, (_, i) => `/n/${i}`);
    for (const address of asked) ask(address);
    const long = `/n/${'x'.repeat(7000)}`;
    expect(ask(long).outcome).toBe('reach');
    expect(known(long)).toBe(false);
    expect(known(asked.at(-1)!)).toBe(true);
    expect(known(asked[0]!)).toBe(false);
    expect(asked.filter(known).length).toBeLessThan(3000);
  });

  test('are decided as they were at first, those too that are no addresses', () => {
    for (const address of ['/n/a', '/o/a', '/o/b?x=1', '/n//a', '/n/%2e', '/%zz', '/none']) {
      const first = ask(address);
      expect(known(address)).toBe(true);
      expect(ask(address)).toEqual(first);
    }
  });
});

describe('a pattern that cuts an escape in two', () => {
  const prepared = siteOf(`pages: { /: Home, '/x/:n(.+)9': X, '/w/:n indeed': W }
gates: { x: { under: '/x/:n(.+)9', admit: path.n = "a" } }
redirects: [{ from: '/y/:n(.+)9', to: '/?n=:n' }]
rewrites: [{ from: '/z/:n(.+)9', serve: '/v/:n' }, { from: '/u/:n indeed', serve: '/?n=:n' }]
`);

  test.each([
    ['/x/%C3%A9', 'sign-in'],
    ['/y/%C3%A9', 'redirect'],
    ['/z/%C3%A9', 'invalid'],
    ['/w/%25%20indeed', 'reach'],
    ['/w/%C3%A9%20indeed', 'reach'],
  ])('is no way to break a decision: %s', (address, outcome) => {
    const { outcome: found } = decisions.decide(prepared, { method: 'GET', address }, GUEST, NOW);
    expect(found).toBe(outcome);
  });

  test('is no way to break what is said of all visitors', () => {
    expect(() => queries.inspect(prepared, 'x.site.yaml', NOW)).not.toThrow();
    const other = siteOf("pages: { /: Home, '/w/:n': W }\n");
    expect(() => queries.compareSites(prepared, other, NOW)).not.toThrow();
  });
});

describe('where two features meet', () => {
  test('a page leads on if a rewrite serves it from what the website has', () => {
    const on = site(
      'pages: { /: Home, /a: { title: A, leads-to: /b }, /b: B }\nrewrites: [{ from: /a, serve: /c }]',
      { site: ', undeclared: website' },
    );
    expect(visited(on, '/a')).toMatchObject({ outcome: 'reach', final: '/b' });
  });

  test.each([
    ['for others', 'when: role keeper'],
    ['ended', 'until: 2026-01-01'],
    ['for another query', null],
    ['where no page is', 'unless-page: yes'],
  ])('an alias costs one hop beside a redirect that does not apply: %s', (_, field) => {
    const from = field === null ? '/o?q=1' : '/o';
    const on = site(
      `pages: { /: Home, /a: { title: A, aliases: [/o] }, '/:x': X }
redirects: [{ from: /go, to: /o }, { from: '${from}', to: /b${field === null ? '' : `, ${field}`} }]`,
    );
    expect(decided(on, '/go').location).toBe('/a');
    // The visitor whom the redirect is for is not sent past it.
    if (field === 'when: role keeper') {
      expect(decided(on, '/go', { who: keeper }).location).toBe('/o');
      expect(decided(on, '/go').status).toBe(302);
    }
  });

  test('a final slash is not added behind a dot at the end of a name', () => {
    const on = site("pages: { /: Home, '/:x': X }", {
      site: ', tidy: { final-slash: add, allow: ["."] }',
    });
    expect(decided(on, '/a.')).toMatchObject({ outcome: 'reach', location: null });
    expect(decided(on, '/a')).toMatchObject({ location: '/a/' });
  });

  test('a visit by a whole URL ends at a path of the site', () => {
    const on = site(
      `${PAGES}visits: [{ address: 'https://t.example/', outcome: reach, final: / }]`,
    );
    expect(visited(on, 'https://t.example/').final).toBe('/');
    expect(queries.expectedVisits(on, NOW)).toMatchObject([{ isAsExpected: true }]);
  });

  test('a menu of usable links has none that full access alone opens', () => {
    const on = site(
      `${PAGES}gates: { a: { at: /a, admit: nobody } }\nmenus: { m: { links: [/a, /b], shows: usable } }`,
      { site: ', full-access: role keeper' },
    );
    const [menu] = decisions.visibleTo(on, keeper, [], NOW).menus;
    expect(menu!.links.map(({ visible }) => visible)).toEqual([false, true]);
  });
});
