import { isDeepStrictEqual } from 'node:util';
import { normalizePath } from '../src/address/tidy.ts';
import { pageAt } from '../src/decision/page-at.ts';
import { Explorer } from '../src/explore/explorer.ts';
import { NONE } from '../src/explore/visitor-sets.ts';
import { decisions, queries } from '../src/index.ts';
import { decodeGroups } from '../src/pattern/fill.ts';
import { lookUp } from '../src/pattern/pattern-index.ts';
import { evaluate } from '../src/condition/evaluate.ts';
import { parseCondition } from '../src/condition/parse.ts';
import { reachOf } from '../src/reach/reach.ts';
import { asVisitor } from './reference/as-core.ts';
import { endOf, peopleIn, randomSites, SEED, SITES } from './reference/everyone.ts';
import { chance, randomBy } from './reference/random-site.ts';
import { GUEST, NOW, siteOf } from './support.ts';

test('who reaches a page is who does, of everyone there could be', () => {
  const by = chance(randomBy(SEED));
  for (const [prepared, text, file] of randomSites(by)) {
    const everyone = peopleIn([file]).map(asVisitor);
    const addresses = [
      ...prepared.site.pages.map(({ example }) => example),
      ...Array.from({ length: 8 }, by.address),
    ];
    for (const address of addresses) {
      const said = queries.whoReaches(prepared, address, NOW);
      if (said === null || address.includes('?')) continue;
      const condition = parseCondition(said.condition);
      for (const visitor of everyone) {
        const end = endOf(prepared, address, visitor);
        const isSaid = evaluate(
          condition,
          { visitor, at: NOW, path: {}, query: '' },
          prepared.names,
        );
        if (isSaid !== (end.outcome === 'reach' && !end.fullAccess))
          throw new Error(JSON.stringify([address, said, visitor, end], null, 1) + text);
      }
    }
  }
});

test('each address of a page that is a pattern is in one family, and reached by those who reach it', () => {
  const by = chance(randomBy(SEED + 1));
  let tried = 0;
  for (const [prepared, text, file] of randomSites(by)) {
    const everyone = peopleIn([file]).map(asVisitor);
    const explorer = new Explorer(prepared, NOW);
    for (let i = 0; i < 40; i++) {
      const address = by.address();
      const page = address.startsWith('/') ? pageAt(prepared, address)?.rule.page : undefined;
      if (!page || !/[:*]/.test(page.address) || address.includes('?')) continue;
      const path = normalizePath(address, prepared.site.tidy);
      // Other spellings are redirected to the one that a family has, and aliases to their pages.
      if (path !== address || prepared.primary.has(path)) continue;
      tried++;
      const families = explorer.familiesOf(page).filter((family) => family.has(path));
      const [family] = families;
      if (!family || families.length > 1)
        throw new Error(`${path} is in ${families.length} families of ${page.address}\n${text}`);
      const reach = reachOf(explorer, page, family);
      const who = reach.explorer.describe(reach.visitors);
      const groups = decodeGroups(lookUp(prepared.pages, path)[0]!.groups);
      for (const visitor of everyone) {
        const end = endOf(prepared, address, visitor);
        const situation = { visitor, at: NOW, path: groups, query: '' };
        const isSaid = who !== null && evaluate(who.condition, situation, prepared.names);
        if (isSaid !== (end.outcome === 'reach' && !end.fullAccess))
          throw new Error(
            JSON.stringify([address, family, reach.visitors === NONE, who, visitor, end], null, 1) +
              text,
          );
      }
    }
  }
  expect(tried).toBeGreaterThan(SITES);
});

test('the grid has for each cell what a visit comes to', () => {
  for (const [prepared, text, file] of randomSites(chance(randomBy(SEED + 2)))) {
    const visitors = peopleIn([file])
      .map(asVisitor)
      .map((visitor, i) => ({ ...visitor, name: `v${i}` }));
    for (const { visited, cells } of decisions.grid(prepared, visitors, NOW).rows)
      for (const visitor of visitors) {
        const { outcome, status, final, fullAccess } = endOf(prepared, visited, visitor);
        const cell = cells[visitor.name];
        if (
          !isDeepStrictEqual({ ...cell, hops: 0 }, { outcome, status, final, fullAccess, hops: 0 })
        )
          throw new Error(JSON.stringify([visited, cell, outcome, final, visitor], null, 1) + text);
      }
  }
});

describe('a page that is a pattern', () => {
  const familiesAt = (address: string, body: string): [string[], string, string][] => {
    const said = queries.whoReaches(siteOf(body), address, NOW)!;
    return said.families.map(({ within, example, words }) => [[...within], example, words]);
  };

  test('is cut where a repeated piece also matches the steps under it', () => {
    const [first, ...others] = queries.whoReaches(
      siteOf(`pages: { /*: All }\ngates: { g: { under: '/b/:x+', admit: 'path.x = "c"' } }`),
      '/*',
      NOW,
    )!.families;
    expect(first!.words).toBe('everyone');
    expect(others.map(({ example, words }) => [example, words])).toEqual([
      ['/b/0', 'nobody'],
      ['/b/c/0', 'nobody'],
      ['/b/c', 'everyone'],
    ]);
  });

  test('is cut by the rules that stand at some of its addresses, each with an example', () => {
    expect(
      familiesAt(
        '/a/:x',
        `roles: { r: R }
pages: { /a/:x: A, /new: New }
gates: { b: { under: /a/b, admit: role r } }
redirects: [{ from: '/a/c-:n(\\d+)', to: /new, when: role r }]`,
      ),
    ).toEqual([
      [[], '/a/kx3', 'everyone'],
      [['/a/c-:n(\\d+)'], '/a/c-0', 'everyone'],
      [['/a/b and all beneath it'], '/a/b', 'anyone with the role r'],
    ]);
  });

  test('is cut where what a section asks of its first step is a part of a piece', () => {
    const cut = (admit: string) =>
      familiesAt(
        '/m/*',
        `pages: { '/m/*': M }
gates: { own: { under: '/m/:who', admit: '${admit}' } }`,
      ).map(([, example, words]) => [example, words]);
    expect(cut('path.who = "kim"')).toEqual([
      ['/m/0/0', 'nobody'],
      ['/m/kim/0', 'everyone'],
      ['/m/kx3', 'anyone for whom path.0 = "kim"'],
    ]);
    expect(cut('visitor.id = path.who')).toEqual([
      ['/m/0/0', 'anyone for whom visitor.id = path.who'],
      ['/m/kx3', 'anyone for whom visitor.id = path.0'],
    ]);
  });

  test('is cut by the rules where it is served from and redirected to', () => {
    expect(
      familiesAt(
        '/a/:x',
        `roles: { r: R }
pages: { '/a/:x': A, '/b/:x': B, '/c/:x': C }
rewrites: [{ from: '/a/:x', serve: '/b/:x' }]
gates: { s: { at: /b/secret, admit: role r } }`,
      ),
    ).toEqual([
      [[], '/a/kx3', 'everyone'],
      [['/b/secret'], '/a/secret', 'anyone with the role r'],
    ]);
  });

  test('is cut there too where pieces may be absent, or stand several times', () => {
    const cut = (piece: string, secret: string) =>
      familiesAt(
        `/a/${piece}`,
        `roles: { r: R }
pages: { '/a/${piece}': A, '/b/${piece}': B, /c: C }
redirects: [{ from: '/a/${piece}', to: '/b/${piece}' }]
gates: { s: { at: ${secret}, admit: role r } }`,
      ).map(([within, example, words]) => [within.join(), example, words]);
    expect(cut(':x?', '/b/secret')).toEqual([
      ['', expect.stringMatching(/^\/a/), 'everyone'],
      ['/b/secret', '/a/secret', 'anyone with the role r'],
    ]);
    expect(cut(':x?', '/b')).toEqual([
      ['', expect.stringMatching(/^\/a\/./), 'everyone'],
      ['/b', '/a', 'anyone with the role r'],
    ]);
    for (const piece of [':x+', ':x*'])
      expect(cut(piece, '/b/one/two')).toEqual([
        ['', expect.stringMatching(/^\/a/), 'everyone'],
        ['/b/one/two', '/a/one/two', 'anyone with the role r'],
      ]);
  });

  test('is cut where a condition compares a part of a piece with a number', () => {
    const body = (condition: string) => `roles: { r: R }
pages: { '/a/:x': A }
gates: { g: { at: '/a/no-:n', admit: 'role r or ${condition}' } }`;
    for (const condition of [
      'path.n >= 12',
      'path.n < 12',
      'path.n = 12',
      'path.n > 9 and path.n <= 100',
    ]) {
      const site = siteOf(body(condition));
      const explorer = new Explorer(site, NOW);
      const [page] = site.site.pages;
      for (const n of [
        '11',
        '12',
        '012',
        '12.0',
        '12.5',
        '13',
        '100',
        '101',
        '9',
        '-3',
        'x',
        '0',
        '007',
      ]) {
        const path = `/a/no-${n}`;
        const families = explorer.familiesOf(page!).filter((family) => family.has(path));
        expect([path, families.length]).toEqual([path, 1]);
        const reach = reachOf(explorer, page!, families[0]!);
        const isOpen = reach.explorer.describe(reach.visitors)?.condition.is === 'anyone';
        expect([condition, path, isOpen]).toEqual([
          condition,
          path,
          endOf(site, path, GUEST).outcome === 'reach',
        ]);
      }
    }
  });

  test('may have a part of a piece in a list that the visitor is compared with', () => {
    expect(
      familiesAt(
        '/u/:x',
        `pages: { '/u/:x': U }
gates: { own: { at: '/u/by-:who', admit: 'visitor.id in [path.who, "kim"]' } }`,
      ),
    ).toEqual([
      [[], '/u/kx3', 'everyone'],
      [['/u/by-:who'], expect.any(String), 'anyone for whom visitor.id in [path.who, "kim"]'],
    ]);
  });

  test('may have a part of a piece that is compared with the visitor', () => {
    expect(
      familiesAt(
        '/u/:x',
        `pages: { '/u/:x': U }
gates: { own: { at: '/u/by-:who', admit: visitor.id = path.who } }`,
      ),
    ).toEqual([
      [[], '/u/kx3', 'everyone'],
      [['/u/by-:who'], expect.any(String), 'anyone for whom visitor.id = path.who'],
    ]);
  });

  test.each([
    ['visitor.id = query.person', 'visitor.id = path.name'],
    ['query.person = "robin"', 'path.name = "robin"'],
    ['query.person != visitor.id', 'path.name != visitor.id'],
  ])('may be served from an address with a piece in its query: %s', (admit, condition) => {
    const site = siteOf(`pages: { '/people/:name': P, /activity: A }
rewrites: [{ from: '/people/:name', serve: '/activity?person=:name' }]
gates: { own: { at: /activity, admit: '${admit}' } }`);
    expect(queries.whoReaches(site, '/people/:name', NOW)).toMatchObject({ condition });
  });

  test('is one where no rule cuts it, and a single address where that is asked about', () => {
    const site = siteOf(`pages: { '/a/:n': { missing-unless: path.n >= 2 and path.n < 4 } }`);
    expect(queries.whoReaches(site, '/a/:n', NOW)).toMatchObject({
      condition: 'path.n >= 2 and path.n < 4',
      families: [],
    });
    expect(queries.whoReaches(site, '/a/3', NOW)).toMatchObject({
      example: '/a/3',
      words: 'everyone',
    });
    expect(queries.whoReaches(site, '/a/4', NOW)).toMatchObject({ words: 'nobody' });
  });
});

test.each([
  [
    'a page that is served from here and shown elsewhere',
    `pages: { /a: A, /c/a: C }\nrewrites: [{ from: '/:y', serve: '/c/:y', canonical: yes, unless-page: yes }]`,
    '/c/a',
    'anyone',
  ],
  [
    'a gate that reads the query with which a page is served',
    `pages: { /a: A, /b: B }\nrewrites: [{ from: /a, serve: '/b?k=1' }]\ngates: { g: { at: /b, admit: query.k = "1" } }`,
    '/a',
    'anyone',
  ],
])('%s', (_, body, address, condition) => {
  expect(queries.whoReaches(siteOf(body), address, NOW)).toMatchObject({ condition });
});

test('how visits end is told of everyone', () => {
  const site = siteOf(
    `roles: { r: R }\npages: { /p: P, /sign-in: S }\ngates: { g: { at: /p, admit: role r } }`,
  );
  expect(
    queries
      .whoReaches(site, '/p', NOW)!
      .endings.map(({ outcome, final, words }) => [outcome, final, words]),
  ).toEqual([
    ['reach', '/p', 'anyone with the role r'],
    ['sign-in', '/sign-in?return=%2Fp', 'guests'],
    ['block', '/p', 'anyone signed in, except anyone with the role r'],
  ]);
});

test('conditions with more cases than can be told apart are an error, and a finding', () => {
  const names = Array.from({ length: 40 }, (_, i) => i);
  const roles = names.flatMap((i) => [`a${i}: A`, `b${i}: B`]).join(', ');
  // All of one kind first: the pairs stand far from each other.
  const all = names.map((i) => `role a${i}`).join(' and ');
  const pairs = names.map((i) => `role a${i} and role b${i}`).join(' or ');
  const site = siteOf(
    `roles: { ${roles} }\npages: { /p: P }\ngates: { g: { at: /p, admit: '(${all}) or ${pairs}' } }`,
  );
  expect(() => queries.whoReaches(site, '/p', NOW)).toThrow(queries.QuestionError);
  expect(queries.inspect(site, 'f.yaml', NOW).map(({ code }) => code)).toContain('too-many-cases');
});
