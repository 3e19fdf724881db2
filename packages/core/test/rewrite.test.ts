import fc from 'fast-check';
import { decisions, queries } from '../src/index.ts';
import { invertRewrite } from '../src/pattern/invert-rewrite.ts';
import { segmentProblem } from '../src/address/segments.ts';
import { encodePathText } from '../src/address/canonical-path.ts';
import { parsePattern } from '../src/pattern/parse.ts';
import { parseTarget } from '../src/pattern/target.ts';
import { GUEST, NOW, errorsOf, siteOf, someone, textsOf } from './support.ts';

const HEAD = `kleidon: 1
site: { name: R, address: https://r.example, sign-in: /sign-in, servers: [https://media.example], full-access: role admin }
roles: { crew: x, admin: x }
`;
const BODY = `pages:
  /activity: Activity
  /people/rules: House rules
  /store/closed: Closed
  /http-only: { title: Pay, https: required }
gates:
  closed: { under: /store, admit: role crew }
  vip: { under: /vip, admit: role admin }
  log: { at: /activity, admit: not query.tab = "secret" or role crew }
rewrites:
  - { from: "/people/:name", serve: "/activity?person=:name", canonical: yes, unless-page: yes }
  - { from: /open, serve: /store/closed }
  - { from: /vip/activity, serve: /activity }
  - { from: /nowhere, serve: /not/there }
  - { from: "/media/*", serve: "https://media.example/site/*" }
  - { from: /log, serve: "/activity?tab=secret" }
  - { from: /mine, serve: /store/closed, when: signed-in }
`;
const site = siteOf(BODY, HEAD);
const crew = someone({ roles: ['crew'] });
const ask = (
  address: string,
  visitor = GUEST,
  method = 'GET',
  on: decisions.PreparedSite = site,
): decisions.Decision => decisions.decide(on, { method, address }, visitor, NOW);

describe('rewrites', () => {
  test.each([
    ['/people/robin', '/activity?person=robin'],
    ['/people/robin?tab=log', '/activity?person=robin&tab=log'],
    ['/people/robin?person=gale', '/activity?person=robin'],
    ['/people/j%C3%BCrgen', '/activity?person=j%C3%BCrgen'],
    ['/media/a/b.png', 'https://media.example/site/a/b.png'],
  ])('%s is served from %s', (address, served) => {
    expect(ask(address)).toMatchObject({ outcome: 'reach', status: 200, served });
  });

  test('a page stays what it is where the rewrite leaves pages alone', () => {
    expect(ask('/people/rules')).toMatchObject({ page: '/people/rules', served: null });
  });

  test.each([
    ['has ended', '{ title: K, until: 2026-01-01 }'],
    ['is a draft', '{ title: K, draft: yes }'],
    ['is missing for the visitor', '{ title: K, missing-unless: role crew }'],
  ])('nobody is led back to a readable address whose page %s', (_, page) => {
    const own = siteOf(
      `pages: { /a: A, /p/kim: ${page} }
rewrites: [{ from: "/p/:name", serve: "/a?n=:name", canonical: yes }]`,
      HEAD,
    );
    expect(ask('/a?n=kim', GUEST, 'GET', own)).toMatchObject({ outcome: 'reach', location: null });
    expect(ask('/a?n=lee', GUEST, 'GET', own)).toMatchObject({ location: '/p/lee' });
  });

  test('leads back where its rewrite is the one that applies, with the query that is kept', () => {
    const own = (when: string) =>
      siteOf(
        `pages: { "/*": All, /p/kim: K }
rewrites:
  - { from: "/p/:name", serve: "/a?n=:name", canonical: yes, when: ${when} }
  - { from: /p/kim, serve: /b, unless-page: yes }`,
        HEAD,
      );
    expect(ask('/a?n=kim', GUEST, 'GET', own('anyone')).location).toBe('/p/kim');
    // The readable address is asked for without this field.
    const byName = own('query.n = "lee"');
    expect(ask('/a?n=lee', GUEST, 'GET', byName)).toMatchObject({ status: 200, location: null });
  });

  test('the redirect to a readable address is not kept longer than its page is there', () => {
    const own = siteOf(
      `pages: { /a: A, /p/kim: { title: K, until: ${new Date(NOW + 60_000).toISOString()} } }
rewrites: [{ from: "/p/:name", serve: "/a?n=:name", canonical: yes }]`,
      HEAD,
    );
    expect(ask('/a?n=kim', GUEST, 'GET', own).headers['Cache-Control']).toContain('max-age=60');
    expect(ask('/a?n=lee', GUEST, 'GET', own).headers['Cache-Control']).not.toContain('max-age=60');
  });

  test('the page of its own readable addresses is no page to leave alone', () => {
    const named = siteOf(
      `pages: { "/p/:person": { title: P, example: /p/kim }, /p/rules: R, /a: A }
gates: { a: { at: /a, admit: role crew } }
rewrites: [{ from: "/p/:name", serve: "/a?n=:name", canonical: yes, unless-page: yes }]`,
      HEAD,
    );
    expect(ask('/p/kim', crew, 'GET', named)).toMatchObject({
      page: '/p/:person',
      served: '/a?n=kim',
    });
    expect(ask('/p/rules', crew, 'GET', named)).toMatchObject({ page: '/p/rules', served: null });
    expect(ask('/a?n=kim', crew, 'GET', named).location).toBe('/p/kim');
    expect(ask('/a?n=rules', crew, 'GET', named).location).toBeNull();
    expect(queries.whoReaches(named, '/p/:person', NOW)!.words).toBe('anyone with the role crew');
    expect(queries.whoReaches(named, '/p/rules', NOW)!.words).toBe('everyone');
  });

  test('both the address asked for and the one served must admit', () => {
    expect(ask('/open').outcome).toBe('sign-in');
    expect(ask('/open', someone()).status).toBe(403);
    expect(ask('/open', crew)).toMatchObject({ outcome: 'reach', served: '/store/closed' });
    expect(ask('/vip/activity', crew).outcome).toBe('block');
    expect(ask('/vip/activity', someone({ roles: ['admin'] })).outcome).toBe('reach');
  });

  test('a gate at what is served sees the query that is served', () => {
    expect(ask('/log').outcome).toBe('sign-in');
    expect(ask('/log?tab=plain').outcome).toBe('sign-in');
    expect(ask('/log', crew).outcome).toBe('reach');
  });

  test('what is served must be there', () => {
    expect(textsOf(ask('/nowhere').reasons.filter(({ stage }) => stage === 'page'))[0]).toBe(
      'There is no page at the address that it is served from.',
    );
    expect(ask('/nowhere').status).toBe(404);
  });

  test('for some only, it is private; for the others nothing is there', () => {
    expect(ask('/mine', crew)).toMatchObject({ outcome: 'reach', served: '/store/closed' });
    expect(ask('/mine', crew).headers['Cache-Control']).toBe('private, no-store');
    expect(ask('/mine').status).toBe(404);
  });

  test('a page that requires HTTPS does so from wherever it is served', () => {
    const plain = siteOf(
      'pages: { /pay: { https: required } }\nrewrites: [{ from: /till, serve: /pay }]',
      'kleidon: 1\nsite: { name: P, address: http://p.example }\n',
    );
    expect(ask('/till', GUEST, 'GET', plain).location).toBe('https://p.example/till');
    expect(ask('https://p.example/till', GUEST, 'GET', plain).outcome).toBe('reach');
  });

  test('the reasons say which rewrite, and which others lost', () => {
    const two = siteOf(
      'pages: { /a: A, /b: B }\nrewrites: [{ from: "/x/*", serve: /a }, { from: "/x/:y", serve: /b }]',
      HEAD,
    );
    const { reasons, page } = ask('/x/1', GUEST, 'GET', two);
    expect(page).toBe('/b');
    expect(textsOf(reasons.filter(({ stage }) => stage === 'rewrite'))).toEqual([
      '/x/:y is served from /b.',
      'The rewrite of /x/* matches too, and is less specific.',
    ]);
  });
});

describe('a canonical rewrite', () => {
  const lands = (address: string): [string, number] => {
    const { final, hops } = decisions.visit(site, { method: 'GET', address }, GUEST, NOW);
    return [final, hops.length - 1];
  };

  test.each([
    ['/activity?person=robin', '/people/robin', 1],
    ['/Activity/?person=Robin', '/people/robin', 1],
    ['/activity?tab=log&person=robin', '/people/robin?tab=log', 1],
    ['/activity', '/activity', 0],
    // A page has that address: it is not what this query shows.
    ['/activity?person=rules', '/activity?person=rules', 0],
    ['/activity?person=a%2Fb', '/activity?person=a%2Fb', 0],
  ])('%s leads to %s', (address, final, hops) => {
    expect(lands(address)).toEqual([final, hops]);
  });

  test('keeps the method', () => {
    expect(ask('/activity?person=robin', GUEST, 'POST')).toMatchObject({
      status: 308,
      location: '/people/robin',
    });
  });

  test.each([
    ['/people/:name', '/activity', '"serve" says nothing of ":name"'],
    ['/x/*', '/activity?all=*', 'a piece of the query must stand alone as the value of a field'],
    ['/x/:path(.*)', '/activity?all=:path', '":path" can hold several steps'],
    ['/x/:a/:b', '/y/:a-:b', 'no slash stands between two pieces'],
    ['/x/:a?', '/y/:a', 'a part of it may be left out or repeated'],
    ['/x/:a', '/y?q', 'the query has a field without a value'],
    ['/x/:a', '/y?q=p-:a', 'a piece of the query must stand alone'],
    ['/x/:a', 'https://media.example/:a', 'it is served by another server'],
  ])("from %s served from %s can't be turned round: %s", (from, serve, because) => {
    const [error] = errorsOf(
      `rewrites:\n  - from: ${JSON.stringify(from)}\n    serve: ${JSON.stringify(serve)}\n    canonical: yes\n`,
      HEAD,
    );
    expect(error).toMatchObject({ code: 'wrong-value', line: 7 });
    expect(error!.message).toContain(because);
  });

  test('the way back is written as a redirect would be', () => {
    const turned = (from: string, serve: string) =>
      invertRewrite(parsePattern(from), parseTarget(serve));
    expect(turned('/p/:id(\\d+)/:tab', '/activity.php?tab=:tab&id=:id')).toEqual({
      from: '/activity.php?tab=:tab&id=:id',
      to: '/p/:id/:tab',
    });
    expect(turned('/g/:year(\\d{4})/*', '/files/*/of-:year')).toEqual({
      from: '/files/*/of-{:year(\\d{4})}',
      to: '/g/:year/*',
    });
  });

  const piece = fc
    .string({
      unit: fc.constantFrom(
        'a',
        'b',
        'R',
        '1',
        '-',
        '.',
        'ü',
        ' ',
        '%',
        '+',
        '&',
        '=',
        '?',
        '#',
        '~',
      ),
    })
    .filter(
      (text) => /[a1ü]/.test(text) && segmentProblem(`/${encodePathText(text)}`, []) === null,
    );
  const rules = fc.constantFrom(
    ['/people/:name', '/activity?person=:name'],
    ['/p/:name/:tab', '/activity?tab=:tab&person=:name'],
    ['/read/:name/x/*', '/files/:name/of/*'],
    ['/n/:name', '/activity/n-:name.x'],
    ['/m/:tab/:name', '/m/t-:tab/x?name=:name'],
  );

  test('filled and turned round gives the address back', () => {
    fc.assert(
      fc.property(rules, piece, piece, fc.constantFrom('lower', 'keep'), (rule, x, y, letters) => {
        const [from, serve] = rule as [string, string];
        const here = siteOf(
          `pages: { "/*": Everything }\nrewrites: [{ from: "${from}", serve: "${serve}", canonical: yes }]`,
          `kleidon: 1\nsite: { name: R, address: https://r.example, tidy: { case: ${letters} } }\n`,
        );
        const asked = from
          .replace(':name', encodePathText(x))
          .replace(':tab', encodePathText(y))
          .replace('*', encodePathText(y));
        const tidy = decisions.visit(here, { method: 'GET', address: asked }, GUEST, NOW);
        const { served } = tidy.hops.at(-1)!.decision;
        expect(served).not.toBeNull();
        const back = decisions.visit(here, { method: 'GET', address: served! }, GUEST, NOW);
        expect([back.final, back.hops.length]).toEqual([tidy.final, 2]);
      }),
      { numRuns: 400 },
    );
  });
});

test('a rewrite never opens a page that its own gate would have closed', () => {
  const roles = ['guest', 'signed-in', 'role crew', 'nobody', 'anyone', 'query.k = "1"'];
  fc.assert(
    fc.property(
      fc.constantFrom(...roles),
      fc.constantFrom(...roles),
      fc.constantFrom('/in/page', '/in/page?k=1', '/in/:x', '/other/page'),
      fc.constantFrom('open', 'closed'),
      (inner, outer, serve, ungated) => {
        const here = siteOf(
          `pages: { /in/page: P, /other/page: O }
gates: { inner: { under: /in, admit: '${inner}' }, outer: { under: /out, admit: '${outer}' } }
rewrites: [{ from: "/out/:x", serve: "${serve}" }]`,
          `kleidon: 1\nsite: { name: R, address: https://r.example, ungated: ${ungated} }\nroles: { crew: x }\n`,
        );
        for (const visitor of [GUEST, someone(), crew]) {
          const { outcome, served } = ask('/out/page', visitor, 'GET', here);
          if (outcome !== 'reach') continue;
          expect(ask(served!, visitor, 'GET', here).outcome).toBe('reach');
        }
      },
    ),
  );
});

test('the grid shows a page that is served from another', () => {
  const here = siteOf(
    'pages: { /sign-in: In, /a: A, "/b/:x": { title: B, example: /b/1 } }\ngates: { g: { at: /a, admit: role crew } }\nrewrites: [{ from: "/b/:x", serve: /a }]',
    HEAD,
  );
  const { rows } = decisions.grid(here, [GUEST, crew], NOW);
  expect(Object.values(rows[1]!.cells).map(({ outcome }) => outcome)).toEqual(['sign-in', 'reach']);
});

test.each([
  ['/a#b', 'A server is never told what stands behind "#".'],
  ['https://evil.example/*', 'is not a server that this site may serve from.'],
  ['/x/:y', '"serve" uses ":y", which "from" does not match.'],
])('serve: %s is refused: %s', (serve, message) => {
  const [error] = errorsOf(
    `rewrites:\n  - from: "/a/*"\n    serve: ${JSON.stringify(serve)}\n`,
    HEAD,
  );
  expect(error).toMatchObject({ line: 6 });
  expect(error!.message).toContain(message);
});
