import { pageAt } from '../src/decision/page-at.ts';
import { evaluate } from '../src/condition/evaluate.ts';
import { parseCondition } from '../src/condition/parse.ts';
import { queries } from '../src/index.ts';
import { asVisitor } from './reference/as-core.ts';
import { endOf, peopleIn, randomSites, SEED, SITES } from './reference/everyone.ts';
import { addressesOf } from './reference/found-by-trial.ts';
import { chance, randomBy } from './reference/random-site.ts';
import { NOW, sampleSite, siteOf } from './support.ts';

const site = (body: string) => siteOf(`roles: { r: R, s: S }\n${body}`);

describe('the kinds of visitors', () => {
  test('are those that the rules tell apart, and no more', () => {
    const prepared = site(`pages: { /: Home, /sign-in: In, /a: A, /b: B }
gates: { a: { at: /a, admit: role r }, b: { at: /b, admit: role r or role s } }
visitors: { kim: { roles: [s] } }`);
    const { kinds, pages, mostTraits } = queries.kindList(prepared, NOW);
    expect([pages, mostTraits]).toEqual([4, null]);
    expect(
      kinds.map(({ name, words, pages: reached, visitors }) => [name, words, reached, visitors]),
    )
      // Whoever has both roles is as who has the one.
      .toEqual([
        ['guest', 'guests', 2, []],
        ['signed-in', 'anyone signed in, except anyone with the role r or s', 2, []],
        ['s', 'anyone with the role s, except anyone with the role r', 3, ['kim']],
        ['r', 'anyone with the role r', 4, []],
      ]);
  });

  test('are told apart at all addresses of a page, and at a page with the address of a person', () => {
    const of = (body: string) => queries.kindList(site(body), NOW).kinds.map(({ words }) => words);
    expect(
      of("pages: { '/docs/:name': D }\ngates: { g: { at: /docs/payroll, admit: role r } }"),
    ).toEqual([
      'guests',
      'anyone signed in, except anyone with the role r',
      'anyone with the role r',
    ]);
    expect(
      of(
        "pages: { /people/bob: B }\ngates: { g: { at: '/people/:name', admit: visitor.id = path.name } }",
      ),
    ).toEqual(['guests', 'anyone signed in, except the person bob', 'the person bob']);
    // The page is served from the address of a person.
    expect(
      of(
        "pages: { /team: T, '/people/:name': P }\nrewrites: [{ from: /team, serve: /people/ann }]\ngates: { g: { at: '/people/:name', admit: visitor.id = path.name } }",
      ),
    ).toEqual(['guests', 'anyone signed in, except the person ann', 'the person ann']);
  });

  test('are fewer where only a section counts', () => {
    const prepared = sampleSite();
    const namesOf = (under: string): string[] =>
      queries.kindList(prepared, NOW, under).kinds.map(({ name }) => name);
    expect(namesOf('/permit')).toEqual(['guest', 'signed-in', 'administrator']);
    expect(namesOf('/about')).toEqual(['guest']);
    expect(queries.kindVisitors(prepared, NOW, '/permit').map(({ name }) => name)).toEqual(
      namesOf('/permit'),
    );
  });

  test('are of plain visitors where there are too many of everyone', () => {
    const count = 8;
    const names = Array.from({ length: count }, (_, i) => `q${i}`);
    const prepared = siteOf(`roles: { ${names.map((name) => `${name}: Q`).join(', ')} }
pages: { /sign-in: In, ${names.map((name) => `/${name}: P`).join(', ')} }
gates: { ${names.map((name) => `${name}: { at: /${name}, admit: role ${name} }`).join(', ')} }`);
    const { kinds, mostTraits } = queries.kindList(prepared, NOW);
    // Guests, those without a role, and those with one or two of eight.
    expect([kinds.length, mostTraits]).toEqual([2 + 8 + 28, 2]);
  });

  test('on random sites: to all of a kind the same happens, and to those of another something else', () => {
    let tried = 0;
    const most = Math.ceil(SITES / 5);
    for (const [prepared, text, file] of randomSites(chance(randomBy(SEED + 30)), most)) {
      const { kinds, mostTraits } = queries.kindList(prepared, NOW);
      if (mostTraits !== null) continue;
      tried++;
      const own = (path: string): boolean => pageAt(prepared, path) !== null;
      const pages = prepared.site.pages.filter(({ address }) => !/[:*]/.test(address));
      const literals = pages.map(({ example }) => example);
      const all = [
        ...literals,
        ...prepared.site.pages.map(({ example }) => example),
        ...addressesOf(file).filter(own),
      ];
      const conditions = kinds.map(({ condition }) => parseCondition(condition));
      const byKind = new Map<string, string>();
      for (const person of peopleIn([file])) {
        const visitor = asVisitor(person);
        const situation = { visitor, at: NOW, path: {}, query: '' };
        const [kind, ...more] = conditions.flatMap((one, i) =>
          evaluate(one, situation, prepared.names) ? [i] : [],
        );
        const met = (addresses: readonly string[]): string =>
          JSON.stringify(
            addresses.map((address) => {
              const { outcome, status, final } = endOf(prepared, address, visitor);
              return [outcome, status, final];
            }),
          );
        const fail = (...what: string[]): never => {
          throw new Error(`${JSON.stringify([what, visitor, kind, more, kinds])}\n${text}`);
        };
        if (kind === undefined || more.length > 0) fail();
        // Whoever has an address of their own among those of a pattern is not of another kind for it.
        const tried = {
          pages: met(literals),
          ...(person.guest || person.id === 'sam' ? { all: met(all) } : {}),
        };
        for (const [where, what] of Object.entries(tried)) {
          const key = `${where} ${kind}`;
          const before = byKind.get(key) ?? what;
          if (before !== what) fail(before, what);
          byKind.set(key, what);
        }
      }
      const differing = [...byKind].filter(([key]) => key.startsWith('all')).map(([, met]) => met);
      expect(new Set(differing).size).toBe(differing.length);
    }
    expect(tried).toBeGreaterThan(most / 2);
  });
});
