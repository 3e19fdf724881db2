import fc from 'fast-check';
import { decisions } from '../src/index.ts';
import { GUEST, NOW, errorsOf, siteOf, someone } from './support.ts';

const head = (tidy: string, more = ''): string => `kleidon: 1
site: { name: T, address: https://t.example, also: [https://www.t.example], sign-in: /sign-in, tidy: ${tidy}${more} }
roles: { crew: x }
`;
const ALL = '{ case: lower, endings: [.html, .php], index: [/home, index, default], words: "-" }';
const BODY = `pages:
  /: Home
  /crew: Crew
  /crew/hide-keys: { title: Keys, aliases: [/keys, /old/keys.html] }
  /crew/map.pdf: { kind: file }
  /sign-in: Sign in
  /journal/:slug: Entry
gates: { crew: { under: /crew, admit: role crew } }
redirects: [{ from: /news, to: /Crew/Hide_Keys.html }]
`;
const site = siteOf(BODY, head(ALL));
const crew = someone({ roles: ['crew'] });
const end = (prepared: decisions.PreparedSite, address: string) => {
  const { final, hops, outcome } = decisions.visit(prepared, { method: 'GET', address }, crew, NOW);
  return [final, hops.length - 1, outcome];
};

describe('tidy addresses', () => {
  test.each([
    ['/crew', '/crew', 0],
    ['/CREW', '/crew', 1],
    ['/crew/', '/crew', 1],
    ['//crew', '//crew', 0],
    ['/crew//hide-keys', '/crew/hide-keys', 1],
    ['/Crew/Hide_Keys.HTML', '/crew/hide-keys', 1],
    ['/crew/hide%20keys/', '/crew/hide-keys', 1],
    ['/crew/index.php', '/crew', 1],
    ['/crew/Default/', '/crew', 1],
    ['/home', '/', 1],
    ['/index.html', '/', 1],
    ['/index/index', '/', 1],
    ['/keys', '/crew/hide-keys', 1],
    ['/Keys.html', '/crew/hide-keys', 1],
    ['/old/keys', '/crew/hide-keys', 1],
    ['/old/KEYS.php/', '/crew/hide-keys', 1],
    ['/crew/Map.pdf', '/crew/map.pdf', 1],
    ['http://t.example/Crew/', '/crew', 1],
    ['http://www.t.example/Crew/index.html', '/crew', 1],
    ['https://www.t.example/Keys', '/crew/hide-keys', 1],
    ['/news', '/crew/hide-keys', 1],
  ])('%s ends at %s after %i hops', (address, final, hops) => {
    expect(end(site, address).slice(0, 2)).toEqual([final, hops]);
  });

  test('keep the query, and the method', () => {
    const asked = (method: string, address: string) => {
      const { status, location } = decisions.decide(site, { method, address }, crew, NOW);
      return [status, location];
    };
    expect(asked('GET', '/Crew/?Page=2')).toEqual([301, '/crew?Page=2']);
    expect(asked('POST', '/Crew/?Page=2')).toEqual([308, '/crew?Page=2']);
  });

  test('a final slash can be wanted, or be left as it is', () => {
    const added = siteOf(BODY, head('{ final-slash: add }'));
    expect(end(added, '/crew')).toEqual(['/crew/', 1, 'reach']);
    expect(end(added, '/crew/')).toEqual(['/crew/', 0, 'reach']);
    expect(end(added, '/crew/map.pdf')).toEqual(['/crew/map.pdf', 0, 'reach']);
    expect(end(added, '/keys')).toEqual(['/crew/hide-keys/', 1, 'reach']);
    const kept = siteOf(BODY, head('{ final-slash: keep, case: keep }'));
    expect(end(kept, '/crew/')).toEqual(['/crew/', 0, 'reach']);
    expect(end(kept, '/crew')).toEqual(['/crew', 0, 'reach']);
    expect(end(kept, '/Crew')[2]).toBe('missing');
  });

  test('rules are matched whatever spelling they have themselves', () => {
    const spelled = siteOf(
      `pages: { /: Home, /Crew/Hide_Keys.html: Keys, "/log/:entry.html": Entry }
gates: { g: { at: /crew/hide_keys.PHP, admit: role crew }, l: { under: "/log/:entry.html", admit: role crew } }`,
      head(ALL),
    );
    for (const address of ['/crew/hide-keys', '/log/12']) {
      expect(decisions.decide(spelled, { method: 'GET', address }, GUEST, NOW).outcome).toBe(
        'sign-in',
      );
      expect(decisions.decide(spelled, { method: 'GET', address }, crew, NOW).outcome).toBe(
        'reach',
      );
    }
  });

  test.each([
    ['{ endings: [html] }', '"html" is not an ending.'],
    ['{ index: ["a b"] }', '"a b" is no index name.'],
    ['{ index: [/crew] }', '"/crew" and "/" are the same address.'],
    ['{ final-slash: maybe }', '"final-slash" must be drop, add or keep'],
  ])('%s is an error', (tidy, message) => {
    expect(errorsOf(BODY, head(tidy))[0]!.message).toContain(message);
  });

  const spelling = fc
    .tuple(
      fc.constantFrom('', 'http://t.example', 'https://www.t.example', 'http://www.t.example'),
      fc.constantFrom('/crew', '/crew/hide-keys', '/crew/map.pdf', '/', '/journal/an-owl', '/none'),
      fc.array(fc.boolean(), { minLength: 20, maxLength: 20 }),
      fc.constantFrom('', '.html', '.php', '/index', '/index.html', '/', '//', '/default/'),
    )
    .map(([host, path, capitals, tail]) => {
      const cased = [...path].map((one, i) => (capitals[i] ? one.toUpperCase() : one)).join('');
      const spaced = capitals[0] ? cased.replace('-', '_') : cased;
      const doubled = capitals[1] && path !== '/' ? spaced.replace(/(?<=.)\//, '//') : spaced;
      const base = doubled.replace(/\/$/, '');
      const end = path.endsWith('.pdf') ? '' : path === '/' && !tail.startsWith('/') ? '/' : tail;
      return { tidy: path, asked: host + base + end };
    });

  test.each(['drop', 'add', 'keep'])(
    'from any spelling it takes one hop at most, and tidying twice changes nothing (%s)',
    (slash) => {
      const prepared = siteOf(BODY, head(ALL.replace('{', `{ final-slash: ${slash},`)));
      fc.assert(
        fc.property(spelling, ({ tidy, asked }) => {
          // Two slashes at the front can be read as a host, and are refused.
          if (asked.startsWith('//')) return;
          const [first, hops, outcome] = end(prepared, asked) as [string, number, string];
          expect(hops).toBeLessThanOrEqual(1);
          expect(end(prepared, first)).toEqual([first, 0, outcome]);
          expect(outcome).toBe(end(prepared, tidy)[2]);
        }),
        { numRuns: 400 },
      );
    },
  );

  test('no two spellings of one address get different answers from a gate', () => {
    fc.assert(
      fc.property(spelling, spelling, (one, other) => {
        if (one.tidy !== other.tidy || /(^| )\/\//.exec(`${one.asked} ${other.asked}`)) return;
        for (const visitor of [GUEST, crew, someone()]) {
          const [a, b] = [one, other].map(({ asked }) => {
            const { outcome, status, final } = decisions.visit(
              site,
              { method: 'GET', address: asked },
              visitor,
              NOW,
            );
            return [outcome, status, final];
          });
          expect(a).toEqual(b);
        }
      }),
      { numRuns: 2000 },
    );
  });
});
