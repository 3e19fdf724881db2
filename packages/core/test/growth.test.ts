import { decisions, model, queries, siteFiles } from '../src/index.ts';
import { errorsOf, NOW, siteOf, someone } from './support.ts';

/*
 * Each of these took minutes, hours or longer than anyone lives: what makes a test fail here is the time
 * that a test may take.
 */
describe('what grows with the size of a site, and no faster', () => {
  const doubled = (depth: number): string =>
    `audiences:\n  a0: role x\n${Array.from({ length: depth }, (_, i) => `  a${i + 1}: a${i} and a${i}`).join('\n')}\n`;
  const SITE = `roles: { x: y }
pages: { /: Home, /a: A }
gates: { g: { at: /a, admit: a45 } }
visitors: { v: { roles: [x] } }
`;

  test('audiences in audiences in audiences', () => {
    const site = siteOf(SITE + doubled(45));
    const outcome = (who = model.GUEST) =>
      decisions.decide(site, { method: 'GET', address: '/a' }, who, NOW).outcome;
    expect([outcome(), outcome(someone({ roles: ['x'] }))]).toEqual(['sign-in', 'reach']);
    queries.inspect(site, 'x', NOW);
    expect(JSON.stringify(queries.whoReaches(site, '/a', NOW))).toContain('x');
  });

  test('too many of them in one another are an error, and so is a circle, however long', () => {
    expect(errorsOf(SITE.replace('a45', 'a9') + doubled(80)).map(({ code }) => code)).toContain(
      'audience-circle',
    );
    const ring = Array.from({ length: 5000 }, (_, i) => `  r${i}: r${(i + 1) % 5000}`).join('\n');
    expect(errorsOf(`pages: { /: Home }\naudiences:\n${ring}\n`).length).toBeGreaterThan(0);
  });

  test.each([
    ['a block', 'pages:\n  /: Home\n'],
    ['a line', 'pages: { /: Home }\n'],
  ])('thousands of entries put into %s by one patch, and taken out again', (_, pages) => {
    const before = `kleidon: 1\nsite: { name: G, address: https://g.example }\n${pages}`;
    const add = Array.from({ length: 4000 }, (_, i): model.PatchOperation => ({
      op: 'add',
      path: `/pages/~1p${i}`,
      value: `T${i}`,
    }));
    const after = siteFiles.patchSite(before, add);
    const titles = (text: string) => {
      const read = siteFiles.readSite(text, 'x');
      return read.ok ? read.site.pages.map(({ title }) => title) : read.errors;
    };
    expect(titles(after)).toEqual(['Home', ...add.map((_, i) => `T${i}`)]);
    const half = add
      .slice(0, 2000)
      .map(({ path }): model.PatchOperation => ({ op: 'remove', path }));
    expect(titles(siteFiles.patchSite(after, half))).toEqual([
      'Home',
      ...add.slice(2000).map((_, i) => `T${i + 2000}`),
    ]);
  });

  test('redirects that lead to one another, thousands of them', () => {
    const chain = (last: string) =>
      siteOf(
        `pages: { /: Home, /end: End }\nredirects:\n${Array.from({ length: 12_000 }, (_, i) => `  - { from: /r${i}, to: ${i === 11_999 ? last : `/r${i + 1}`} }`).join('\n')}\n`,
      );
    const [before, after] = [chain('/'), chain('/end')];
    const { changes, differences } = queries.compareSites(before, after, NOW);
    expect(changes.map(({ name }) => name)).toEqual(['/r11999']);
    expect(differences.length).toBeGreaterThan(0);
    const added = queries.compareSites(siteOf('pages: { /: Home, /end: End }\n'), after, NOW);
    expect(added.changes).toHaveLength(12_000);
  });

  test('pages close to addresses that nobody found, among thousands that are named alike', () => {
    const pages = Array.from(
      { length: 3000 },
      (_, i) => `  /section-${i % 50}/page-number-${i}: P`,
    );
    const site = siteOf(`pages:\n  /: Home\n${pages.join('\n')}\n`);
    const close = (address: string) =>
      queries.suggestPages(site, address, model.GUEST, NOW).map(({ address: found }) => found);
    expect(close('/section-7/page-numbr-1507')[0]).toBe('/section-7/page-number-1507');
    for (let i = 0; i < 200; i++)
      expect(close(`/section-${i % 50}/page-nomber-${i}`)).toContain(
        `/section-${i % 50}/page-number-${i}`,
      );
  });

  test.each([
    ['brackets', `a: ${'['.repeat(50_000)}`],
    ['braces', `a: 1\nb: ${'{'.repeat(50_000)}`],
    ['braces with others in quotes', `a: ${'{ "}": '.repeat(20_000)}`],
    ['indicators', `a: 1\n${'- '.repeat(20_000)}`],
    ['lines', Array.from({ length: 2000 }, (_, i) => `${' '.repeat(i)}a:`).join('\n')],
  ])('a file that is nested without end is told so: %s', (_, text) => {
    const read = siteFiles.readSite(text, 'x');
    expect(read.ok ? [] : queries.explainErrors(read.errors)[0]).toMatchObject({
      code: 'yaml',
      message: expect.stringContaining('nested deeper') as string,
    });
    expect(() => siteFiles.patchSite(text, [{ op: 'add', path: '/b', value: 1 }])).toThrow(
      'not YAML',
    );
  });

  test('what a file that is nested as people nest has many of is no depth', () => {
    const gates = Array.from(
      { length: 500 },
      (_, i) => `  g${i}: { at: [/a, '/{b}?'], admit: nobody }`,
    );
    expect(siteOf(`pages: { /: Home }\ngates:\n${gates.join('\n')}\n`).site.gates).toHaveLength(
      500,
    );
  });
});
