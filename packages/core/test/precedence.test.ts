import { decisions, queries } from '../src/index.ts';
import { GUEST, NOW, siteOf, someone } from './support.ts';

const PAGES = "pages: { /: Home, /a: A, /b: B, /c: C, '/x-:n': { title: X, example: /x-a } }\n";
const decided = (body: string, address: string, who = GUEST) =>
  decisions.decide(siteOf(PAGES + body), { method: 'GET', address }, who, NOW);

describe('which of two rules applies does not depend on their names', () => {
  const bothWays = (rules: (first: string, second: string) => string) =>
    [rules('a', 'z'), rules('z', 'a')] as const;

  test.each([
    ['text with * before plain *', "'/x-*'", "'/*'", '/x-a'],
    ['text with * before a group', "'/x-*'", "'/:n'", '/x-a'],
    ['text behind * before a group', "'/*-a'", "'/:n'", '/x-a'],
    ['text behind * before plain *', "'/*-a'", "'/*'", '/b/x-a'],
    ['more plain text on both sides', "'/x*-a'", "'/x*'", '/x-a'],
    ['one segment with text behind before several', "'/:n-a'", "'/*-a'", '/x-a'],
    ['one segment before several', "'/x-:n'", "'/x-*'", '/x-a'],
    ['more plain text before less', "'/x-a*'", "'/x-*'", '/x-abc'],
    ['more plain text in a segment', "'/x-a:n'", "'/x-:n'", '/x-ab'],
    ['a regular expression before a group', String.raw`'/:n(x-\w+)'`, "'/:n'", '/x-a'],
    ['an option that is there', "'/a{/x-*}'", "'/a/*'", '/a/x-1'],
    ['a section by its first segment', 'under /a', "at '/:team/secrets'", '/a/secrets'],
  ])('gates: %s', (_, first, second, address) => {
    const extent = (text: string) =>
      /^(?:at|under) /.test(text) ? text.replace(' ', ': ') : `at: ${text}`;
    for (const body of bothWays(
      (one, other) =>
        `gates: { ${one}: { ${extent(first)}, admit: nobody }, ${other}: { ${extent(second)}, admit: anyone } }`,
    )) {
      const { reasons } = decided(body, address);
      expect(reasons.find(({ stage }) => stage === 'gate')?.verdict).toBe('refused');
    }
  });

  test.each([
    ['a value before a piece', '/s?page=rota', '/s?page=:x', '/s?page=rota'],
    ['a value before any', '/s?q=1', '/s?q=*', '/s?q=1'],
    ['more fields before fewer', '/s?q=:x&p=:y', '/s?q=1', '/s?q=1&p=2'],
  ])('redirects: %s', (_, first, second, address) => {
    for (const [one, other] of [
      ['/a', '/b'],
      ['/b', '/a'],
    ] as const) {
      const body = `redirects: [{ from: '${second}', to: ${other} }, { from: '${first}', to: ${one} }]`;
      expect(decided(body, address).location).toBe(one);
    }
  });

  test('a longer query before a condition that is met by anyone', () => {
    const body = `redirects: [{ from: '/s?q=1', to: /a, when: anyone }, { from: '/s?q=1&p=2', to: /b }]`;
    expect(decided(body, '/s?q=1&p=2').location).toBe('/b');
  });

  test('rules that tie are told once, in whatever order they stand', () => {
    const tiesOf = (body: string) =>
      queries
        .inspect(siteOf(PAGES + body), 'x', NOW)
        .filter(({ code }) => code === 'tie')
        .map(({ about }) => about);
    expect(
      tiesOf("gates: { z: { at: '/:n', admit: nobody }, a: { at: '/:m', admit: anyone } }"),
    ).toEqual(['gates z, a']);
    expect(
      tiesOf("redirects: [{ from: '/o/:n\\?q=1', to: /a }, { from: '/o/:m\\?q=2', to: /b }]"),
    ).toEqual([]);
  });

  test('what ties all the same is a finding, with an address', () => {
    const site = siteOf(
      String.raw`${PAGES}gates: { a: { at: '/:n(\d+)', admit: nobody }, b: { at: '/:n([0-9a-f]+)', admit: anyone } }`,
    );
    const [tie] = queries.inspect(site, 'x', NOW).filter(({ code }) => code === 'tie');
    expect(tie?.message).toMatch(/The gates a \(line \d+\) and b \(line \d+\) are all for \/\d+,/);
  });
});

describe('landings', () => {
  const MORE = 'roles: { keeper: K, other: O }\n';
  const land = (landings: readonly string[], who = someone({ roles: ['keeper', 'other'] })) =>
    decisions.landing(
      siteOf(`${PAGES}${MORE}landings: [${landings.join(', ')}]`),
      'sign-in',
      who,
      null,
      NOW,
    ).address;

  test('one that is for some comes before one for anyone, whatever its rank', () => {
    const all = [
      '{ after: sign-in, go: /a, rank: 9 }',
      '{ after: sign-in, who: role keeper, go: /b }',
    ];
    expect([land(all), land([...all].reverse())]).toEqual(['/b', '/b']);
    expect(land(all, someone())).toBe('/a');
  });

  test('the order in the file settles nothing', () => {
    const all = [
      '{ after: sign-in, who: role other, go: /a }',
      '{ after: sign-in, who: role keeper, go: /b }',
    ];
    expect(land(all)).toBe(land([...all].reverse()));
  });
});
