import { decisions, type model, queries } from '../src/index.ts';
import { redirectsOf } from '../src/visit/visit.ts';
import { GUEST, NOW, sampleSite, siteOf } from './support.ts';

const go = (
  site: decisions.PreparedSite,
  address: string,
  visitor: model.Visitor = GUEST,
  method = 'GET',
) => decisions.visit(site, { method, address }, visitor, NOW);

describe('a visit', () => {
  const prepared = siteOf(`
roles: { crew: x }
pages: { /: Home, /sign-in: Sign in, /b: B, /crew: Crew, /join: Join, /shop: { leads-to: https://shop.example/ } }
gates:
  crew: { under: /crew, admit: role crew }
  club: { at: /club, admit: nobody, otherwise: [{ do: send, to: /join }] }
  lost: { at: /lost, admit: nobody, otherwise: [{ do: send, to: /nowhere }] }
  sold: { at: /sold, admit: nobody, otherwise: [{ do: send, to: https://shop.example/x }] }
redirects:
  - { from: /a, to: /b }
  - { from: /one, to: /two }
  - { from: /two, to: /one }
  - { from: /self, to: /self }
  - { from: '/grow/*', to: '/grow/x/*' }
  - { from: /to-crew, to: /crew }
  - { from: /abs, to: https://test.example/b }`);

  test.each<[string, decisions.Outcome, number, string, number]>([
    ['/b', 'reach', 200, '/b', 0],
    ['/a', 'reach', 200, '/b', 1],
    ['/abs', 'reach', 200, '/b', 1],
    ['/one', 'loop', 302, '/one', 2],
    ['/self', 'loop', 302, '/self', 1],
    ['/to-crew', 'sign-in', 200, '/sign-in?return=%2Fcrew', 2],
    ['/club', 'block', 200, '/join', 1],
    ['/lost', 'block', 404, '/nowhere', 1],
    ['/sold', 'block', 303, 'https://shop.example/x', 1],
    ['/shop', 'away', 302, 'https://shop.example/', 1],
    ['/nothing', 'missing', 404, '/nothing', 0],
    ['/%', 'invalid', 400, '/%', 0],
  ])(
    'to %s ends as %s %i at %s after %i redirects',
    (address, outcome, status, final, redirects) => {
      const made = go(prepared, address);
      expect([made.outcome, made.status, made.final, redirectsOf(made)]).toEqual([
        outcome,
        status,
        final,
        redirects,
      ]);
    },
  );

  test('redirects that never meet the same address again end as a loop all the same', () => {
    expect(go(prepared, '/grow/y')).toMatchObject({ outcome: 'loop' });
  });

  test('a sign-in page that is itself gated ends as a loop', () => {
    const closed = siteOf(
      'pages: { /: Home, /sign-in: Sign in }\ngates: { all: { under: /, admit: signed-in } }',
    );
    expect(go(closed, '/')).toMatchObject({ outcome: 'loop', final: '/sign-in?return=%2F' });
    expect(go(closed, '/sign-in')).toMatchObject({ outcome: 'loop' });
  });

  test('303 goes on with GET, and 307 with the method that it had', () => {
    const site = siteOf(`
pages: { /form: Form, /thanks: Thanks, /sign-in: Sign in }
gates: { form: { at: /form, right: change, admit: signed-in }, in: { at: /sign-in, right: change, admit: nobody } }
redirects: [{ from: /old-form, to: /form }]`);
    expect(go(site, '/form', GUEST, 'POST').outcome).toBe('sign-in');
    expect(go(site, '/old-form', GUEST, 'POST').outcome).toBe('sign-in');
    expect(go(site, '/old-form', GUEST, 'GET').outcome).toBe('reach');
  });
});

describe('the grid', () => {
  test('has a row for each page in tree order, and a cell for each visitor', () => {
    const site = siteOf(
      'pages: { /b/c: C, /: Home, /b: B, /a: A, /b-x: X }\nvisitors: { gale: { guest: yes }, sam: {} }',
    );
    const { rows, visitors } = decisions.grid(site, site.site.visitors, NOW);
    expect(rows.map(({ address, parent }) => [address, parent])).toEqual([
      ['/', null],
      ['/a', null],
      ['/b', null],
      ['/b/c', '/b'],
      ['/b-x', null],
    ]);
    expect(visitors.map(({ name, summary }) => [name, summary])).toEqual([
      ['gale', 'guest'],
      ['sam', 'signed in'],
    ]);
    expect(rows.every(({ cells }) => Object.keys(cells).join() === 'gale,sam')).toBe(true);
  });

  test('filters by section, visitor and outcome', () => {
    const sample = sampleSite();
    const all = decisions.grid(sample, sample.site.visitors, NOW);
    const some = decisions.grid(sample, sample.site.visitors, NOW, {
      under: '/crew',
      visitors: ['vik'],
      outcomes: ['block'],
    });
    expect(some.visitors.map(({ name }) => name)).toEqual(['vik']);
    expect(some.rows.map(({ address }) => address)).toEqual([
      '/crew/ringing-log',
      '/crew/ringing-log/:entry(\\d+)',
      '/crew/rota/swaps',
    ]);
    expect(some.rows[0]!.cells['vik']).toEqual(
      all.rows.find(({ address }) => address === '/crew/ringing-log')!.cells['vik'],
    );
  });
});

test('a visitor may have any name', () => {
  const site = siteOf(
    'pages: { /: Home }\nvisitors: { __proto__: { guest: yes }, constructor: {} }',
  );
  const { rows } = decisions.grid(site, site.site.visitors, NOW);
  expect(Object.keys(rows[0]!.cells)).toEqual(['__proto__', 'constructor']);
});

test('a grid has rows for addresses of a pattern at which visits end differently', () => {
  const on = siteOf(
    `pages: { /: Home, '/docs/:name': Docs }
gates: { pay: { at: /docs/payroll, admit: nobody }, open: { under: /docs/open, admit: anyone } }
visitors: { kim: {} }
`,
  );
  const { rows } = decisions.grid(on, on.site.visitors, NOW, { families: true });
  expect(
    rows.map(({ address, parent, cells }) => [address, parent, cells['kim']!.outcome]),
  ).toEqual([
    ['/', null, 'reach'],
    ['/docs/:name', null, 'reach'],
    ['/docs/:name at /docs/payroll', '/docs/:name', 'block'],
  ]);
});

describe('the sample site', () => {
  const sample = sampleSite();
  test('is as large as its scenario', () => {
    const { pages, gates, redirects, visitors } = sample.site;
    expect(pages.length).toBeGreaterThanOrEqual(40);
    expect(gates.length).toBeGreaterThanOrEqual(8);
    expect(redirects.length).toBeGreaterThanOrEqual(10);
    expect(visitors).toHaveLength(10);
  });

  test('shows every way in which a visit to a page can end', () => {
    const { rows } = decisions.grid(sample, sample.site.visitors, NOW);
    const outcomes = new Set(
      rows.flatMap(({ cells }) => Object.values(cells).map(({ outcome }) => outcome)),
    );
    expect([...outcomes].sort()).toEqual(['away', 'block', 'loop', 'missing', 'reach', 'sign-in']);
    // No page can have an address that is invalid: that one is only ever typed in.
    expect(go(sample, '/crew%2Frota').outcome).toBe('invalid');
  });

  test('has nothing to find but what it shows on purpose', () => {
    expect(queries.inspect(sample, 'sample', NOW)).toEqual([]);
  });
});
