import { XMLParser } from 'fast-xml-parser';
import { decisions, formats, model, queries, siteFiles } from '../src/index.ts';

const read = siteFiles.readSite(
  `kleidon: 1
site: { name: P, address: https://p.example, sign-in: /in }
roles: { crew: x }
pages:
  /: Home
  /in: Sign in
  /crew: Crew
  /hidden: Hidden
  /one/:name: { title: One of many, example: /one/a }
  /gone: { title: Gone, until: 2020-01-01 }
gates:
  crew: { at: /crew, admit: role crew }
  hidden: { at: /hidden, admit: role crew, otherwise: [{ do: hide }] }
redirects:
  - { from: /old, to: /crew, when: role crew }
  - { from: /old, to: / }
  - { from: /wörd, to: '/#a b' }
  - { from: /never, to: / }
parts: { all: { admit: anyone }, crew: { admit: role crew } }
`,
  'p.site.yaml',
  () => null,
);
if (!read.ok) throw new Error(JSON.stringify(read.errors));
const site: decisions.PreparedSite = decisions.prepareSite(read.site);
const AT = Date.UTC(2026, 10, 23);
const crew = { ...model.GUEST, guest: false, id: 'kim', name: 'kim', roles: ['crew'] };

const answer = (
  address: string,
  status: number,
  location: string | null = null,
): decisions.Answered => ({
  address,
  status,
  location,
  failure: status === 0 ? 'no answer (reset)' : null,
});
const compared = (address: string, ...answered: decisions.Answered[]) =>
  decisions.compareVisit(
    decisions.visit(site, { method: 'GET', address }, model.GUEST, AT),
    answered,
  ).difference;

describe('a visit beside what was answered', () => {
  const TO_SIGN_IN = '/in?return=%2Fcrew';

  test('agrees where each status and each location does', () => {
    expect(compared('/', answer('/', 200))).toBeNull();
    expect(compared('/crew', answer('/crew', 303, TO_SIGN_IN), answer(TO_SIGN_IN, 200))).toBeNull();
  });

  test('locations may be escaped otherwise where that means the same', () => {
    const ends = answer('/#a%20b', 200);
    expect(compared('/wörd', answer('/w%C3%B6rd', 302, '/#a%20b'), ends)).toBeNull();
    expect(compared('/wörd', answer('/w%C3%B6rd', 302, '/#a%21b'), ends)).not.toBeNull();
  });

  test.each<[string, string, decisions.Answered[], object]>([
    ['sees a closed page', '/crew', [answer('/crew', 200)], { hop: 1, effect: 'opens' }],
    ['sees a hidden page', '/hidden', [answer('/hidden', 200)], { hop: 1, effect: 'opens' }],
    ['is told of a hidden page', '/hidden', [answer('/hidden', 403)], { effect: 'other' }],
    ['does not see an open page', '/', [answer('/', 404)], { effect: 'closes', found: '404' }],
    ['has no answer', '/', [answer('/', 0)], { effect: 'closes', found: 'no answer (reset)' }],
    [
      'is sent elsewhere',
      '/old',
      [answer('/old', 302, '/in'), answer('/in', 200)],
      { expected: '302 to /', found: '302 to /in', effect: 'other' },
    ],
    [
      'is sent for good',
      '/old',
      [answer('/old', 301, '/'), answer('/', 200)],
      { expected: '302 to /', found: '301 to /' },
    ],
    [
      'breaks off on the way',
      '/crew',
      [answer('/crew', 303, TO_SIGN_IN)],
      { hop: 2, address: TO_SIGN_IN, found: 'nothing more' },
    ],
    [
      'fails at the second hop',
      '/old',
      [answer('/old', 302, '/'), answer('/', 500)],
      { hop: 2, address: '/', found: '500', effect: 'closes' },
    ],
  ])('a visitor who %s', (_, address, answered, difference) => {
    expect(compared(address, ...answered)).toMatchObject(difference);
  });
});

describe('a report in JUnit XML', () => {
  test('has a suite for each visitor, with counts, and escapes what it tells', () => {
    const xml = formats.writeJunit('A & B', [
      { suite: 'gale', name: '/<b>', failure: 'said "no" & <less>', skipped: null },
      { suite: 'vik', name: '/', failure: null, skipped: null },
      { suite: 'gale', name: '/x', failure: null, skipped: 'not now' },
    ]);
    const { testsuites } = new XMLParser({ ignoreAttributes: false }).parse(xml) as {
      testsuites: Record<string, unknown>;
    };
    expect(testsuites).toEqual({
      '@_name': 'A & B',
      '@_tests': '3',
      '@_failures': '1',
      '@_skipped': '1',
      testsuite: [
        {
          '@_name': 'gale',
          '@_tests': '2',
          '@_failures': '1',
          '@_skipped': '1',
          testcase: [
            {
              '@_classname': 'gale',
              '@_name': '/<b>',
              failure: { '@_message': 'said "no" & <less>' },
            },
            { '@_classname': 'gale', '@_name': '/x', skipped: { '@_message': 'not now' } },
          ],
        },
        {
          '@_name': 'vik',
          '@_tests': '1',
          '@_failures': '0',
          '@_skipped': '0',
          testcase: { '@_classname': 'vik', '@_name': '/' },
        },
      ],
    });
  });
});

describe('redirects in use', () => {
  const applied = (address: string, visitor = model.GUEST) => {
    const redirect = decisions.appliedRedirect(
      site,
      decisions.decide(site, { method: 'GET', address }, visitor, AT),
    );
    return redirect && decisions.redirectKey(redirect);
  };

  test('the one that decided is told, and two for different people apart', () => {
    expect(applied('/old')).toBe('/old');
    expect(applied('/old', crew)).toBe('/old when role crew');
    expect(applied('/')).toBeNull();
    expect(applied('/crew')).toBeNull();
  });

  test('are listed by count, by last use, or those never used first', () => {
    const uses = new Map([
      ['/old', { count: 2, last: '2026-11-02T00:00:00Z' }],
      ['/old when role crew', { count: 1, last: '2026-11-03T00:00:00Z' }],
      ['/not-there-any-more', { count: 9, last: '2026-11-04T00:00:00Z' }],
    ]);
    const listed = (order?: Parameters<typeof queries.redirectUses>[2]) =>
      queries.redirectUses(site, uses, order).map(({ from, when, count }) => [from, when, count]);
    const crewOnly = ['/old', 'role crew', 1];
    expect(listed().slice(0, 2)).toEqual([['/old', null, 2], crewOnly]);
    expect(listed('last')[0]).toEqual(crewOnly);
    expect(
      listed('unused')
        .slice(0, 2)
        .map(([, , count]) => count),
    ).toEqual([0, 0]);
    expect(listed('file').map(([from]) => from)).toEqual(['/old', '/old', '/wörd', '/never']);
  });
});

test('the page that has an address for itself, open or not; one of many has none', () => {
  expect(queries.pageTitleAt(site, '/gone')).toBe('Gone');
  expect(queries.pageTitleAt(site, '/crew')).toBe('Crew');
  expect(queries.pageTitleAt(site, '/one/b')).toBeNull();
  expect(queries.pageTitleAt(site, '/none')).toBeNull();
  expect(queries.pageTitleAt(site, '/%zz')).toBeNull();
});

test('a part is seen by whom it admits, and one that is not known by nobody', () => {
  const parts = (visitor: typeof model.GUEST) =>
    ['all', 'crew', 'crw'].map((name) => decisions.visibilityOf(site, visitor, AT).part(name));
  expect(parts(model.GUEST)).toEqual([true, false, false]);
  expect(parts(crew)).toEqual([true, true, false]);
});

describe('pages of a website that the site file does not declare', () => {
  const undeclared = (...found: string[]) =>
    queries.undeclaredPages(site, found, Date.UTC(2026, 10, 23));

  test('are told once each, with what guests meet there', () => {
    expect(undeclared('/', '/crew', '/leaflet', '/leaflet?page=2', '/one/else')).toEqual([
      { address: '/leaflet', outcome: 'missing', status: 404 },
    ]);
  });

  test('are none where a redirect leads on, on another host, or where there is no address', () => {
    expect(undeclared('/old', '/never', 'https://else.example/x', '/%zz')).toEqual([]);
  });

  test('are known in any spelling', () => {
    expect(undeclared('/%63rew', '/leafle%74').map(({ address }) => address)).toEqual(['/leaflet']);
  });
});
