import { decisions, formats, queries, siteFiles } from '../src/index.ts';
import { parsePattern } from '../src/pattern/parse.ts';
import { GUEST, NOW, siteOf } from './support.ts';

const TEXT = `kleidon: 1
site: { name: T, address: https://t.example, time-zone: Europe/London, tidy: { endings: [.html], index: [/home] } }
roles: { crew: x }
pages: { /: Home, /a: { title: A, aliases: [/other] }, /song/:n: { example: /song/3, missing-unless: path.n <= 12 } }
redirects:
  - { from: /x, to: /y, note: The Old One }
  - { from: /y, to: /a, kind: permanent, when: role crew, rank: 2 }
  - { from: /past, to: /a, until: 2026-07-01 }
  - { from: /future, to: "/a#part", since: 2090-07-01 }
  - { from: "/q?id=:id&all=*", to: "/song/:id" }
redirect-lists: [old.csv]
rewrites: [{ from: /readable, serve: "/a?x=1" }]
not-found: [{ under: /song, say: None }, { under: /gone, say: Gone, status: 410 }]
`;
const LIST = 'from,to,kind\n/m,/a,301\n/n,/nowhere,\n';

function site(): decisions.PreparedSite {
  const read = siteFiles.readSite(TEXT, 't.yaml', () => LIST);
  if (!read.ok) throw new Error(JSON.stringify(read.errors));
  return decisions.prepareSite(read.site);
}
const table = (filter: queries.RedirectFilter = {}) => {
  const prepared = site();
  return queries.redirectTable(prepared, queries.inspect(prepared, 't.yaml', NOW), NOW, filter);
};
const froms = (filter: queries.RedirectFilter): string[] =>
  table(filter).rows.map(({ from }) => from);

describe('the table of redirects', () => {
  test('has a row for each, with where it stands and what is wrong with it', () => {
    const { all, found, rows } = table();
    expect([all, found]).toEqual([7, 7]);
    expect(rows.map(({ position, list, line }) => [position, list, line])).toEqual([
      [0, null, 6],
      [1, null, 7],
      [2, null, 8],
      [3, null, 9],
      [4, null, 10],
      [null, 'old.csv', 2],
      [null, 'old.csv', 3],
    ]);
    expect(rows.map(({ status }) => status)).toEqual([
      'active',
      'active',
      'expired',
      'scheduled',
      'active',
      'active',
      'active',
    ]);
    expect(rows[1]).toMatchObject({
      kind: 'permanent',
      when: 'role crew',
      rank: 2,
      findings: ['redirect-permanent-for-some'],
    });
    // Midnight of a summer day in London is eleven in the evening before in UTC.
    expect([rows[2]!.until, rows[3]!.since]).toEqual(['2026-07-01', '2090-07-01']);
    expect(rows[4]!.example).toBe('/q?id=example&all=example');
    expect(rows[6]!.findings).toEqual(['redirect-dead-end']);
  });

  test.each<[queries.RedirectFilter, string[]]>([
    [{ search: 'old one' }, ['/x']],
    [{ search: '#part' }, ['/future']],
    [{ kind: 'permanent' }, ['/y', '/m']],
    [{ status: 'scheduled' }, ['/future']],
    [{ list: '', kind: 'permanent' }, ['/y']],
    [{ list: 'old.csv' }, ['/m', '/n']],
    [{ finding: 'date-passed' }, ['/past']],
    [{ finding: 'none', list: 'old.csv' }, ['/m']],
    [{ order: 'from', descending: true, limit: 2 }, ['/y', '/x']],
    [{ order: 'until', limit: 1 }, ['/past']],
    [{ order: 'to', skip: 5 }, ['/q?id=:id&all=*', '/x']],
    [{ search: 'nothing like this' }, []],
  ])('%j gives %j', (filter, expected) => {
    expect(froms(filter)).toEqual(expected);
  });

  test('what was read is written as it would be by hand', () => {
    const entries = site().site.redirects.map(siteFiles.redirectEntry);
    expect(entries[0]).toEqual({ from: '/x', to: '/y', note: 'The Old One' });
    expect(entries[1]).toEqual({
      from: '/y',
      to: '/a',
      kind: 'permanent',
      when: 'role crew',
      rank: 2,
    });
    expect(entries[5]).toEqual({ from: '/m', to: '/a', kind: 'permanent' });
  });
});

describe('all addresses of a page', () => {
  test('are its own, those that lead to it, those that it is shown at, and other spellings', () => {
    const all = queries.addressesOf(site(), '/a', GUEST, NOW)!;
    expect(all.map(({ by, address, final, hops }) => [by, address, final, hops])).toEqual([
      ['primary', '/a', '/a', 0],
      ['alias', '/other', '/a', 1],
      ['redirect', '/y', '/y', 0],
      ['redirect', '/past', '/past', 0],
      ['redirect', '/future', '/future', 0],
      ['redirect', '/m', '/a', 1],
      ['rewrite', '/readable', '/readable', 0],
      ['spelling', '/a/', '/a', 1],
      ['spelling', '/A', '/a', 1],
      ['spelling', '/a.html', '/a', 1],
    ]);
    expect(queries.addressesOf(site(), '/', GUEST, NOW)!.map(({ by }) => by)).toEqual([
      'primary',
      'home',
    ]);
    expect(queries.addressesOf(site(), '/none', GUEST, NOW)).toBeNull();
  });
});

describe('several entries of a list in one edit', () => {
  const redirects = (text: string): unknown => siteFiles.valueOf(text)['redirects'];
  const [first, second] = redirects(TEXT) as unknown[];

  test('are changed, removed and added, whatever the order they are named in', () => {
    const { text, refused } = siteFiles.planEdits(TEXT, [
      {
        do: 'put-items',
        section: 'redirects',
        items: [
          { was: null, value: { from: '/new', to: '/a' } },
          { was: first, value: null },
          { was: second, value: { from: '/y', to: '/' } },
        ],
      },
    ]);
    expect(refused).toEqual([]);
    expect(
      (redirects(text) as { from: string; to: string }[]).map(({ from, to }) => [from, to]),
    ).toEqual([
      ['/y', '/'],
      ['/past', '/a'],
      ['/future', '/a#part'],
      ['/q?id=:id&all=*', '/song/:id'],
      ['/new', '/a'],
    ]);
  });

  test('are all left alone where one is not there any more', () => {
    const { text, refused } = siteFiles.planEdits(TEXT, [
      {
        do: 'put-items',
        section: 'redirects',
        items: [
          { was: first, value: null },
          { was: { from: '/x', to: '/elsewhere' }, value: null },
        ],
      },
    ]);
    expect(text).toBe(TEXT);
    expect(refused).toEqual([
      {
        position: 0,
        code: 'entries-changed',
        message: '1 of the 2 entries are not there any more, or were changed.',
        conflict: null,
      },
    ]);
  });

  test('show what they come to at a few addresses', () => {
    const prepared = site();
    const put = (section: 'redirects' | 'rewrites' | 'not-found', value: unknown) =>
      queries.examplesOf(prepared, [{ do: 'put-item', section, was: null, value }]);
    expect(put('redirects', { from: '/q?id=:id&all=*', to: '/song/:id' })).toEqual([
      '/q?id=example&all=example',
    ]);
    expect(put('rewrites', { from: '/readable' })).toEqual(['/readable']);
    expect(put('not-found', { under: '/gone' })).toEqual(['/gone']);
    expect(put('redirects', null)).toEqual([]);
    const many = Array.from({ length: 20 }, () => ({ was: null, value: { from: '/x', to: '/y' } }));
    expect(
      queries.examplesOf(prepared, [{ do: 'put-items', section: 'redirects', items: many }]),
    ).toHaveLength(5);
  });
});

test('a sitemap of more than 50,000 addresses is an index of several', () => {
  const one = siteOf('pages: { /p: P }');
  const [page] = one.site.pages;
  const pages = Array.from({ length: 100_001 }, (_, i) => {
    const address = `/p${i}`;
    return { ...page!, address, example: address, pattern: parsePattern(address) };
  });
  const files = queries.writeSitemaps(decisions.prepareSite({ ...one.site, pages }), NOW);
  expect(files.map(({ name }) => name)).toEqual([
    'sitemap.xml',
    'sitemap-1.xml',
    'sitemap-2.xml',
    'sitemap-3.xml',
  ]);
  expect(files[0]!.text.match(/<loc>[^<]+/g)).toEqual([
    '<loc>https://test.example/sitemap-1.xml',
    '<loc>https://test.example/sitemap-2.xml',
    '<loc>https://test.example/sitemap-3.xml',
  ]);
  expect(files.slice(1).map(({ text }) => formats.readSitemap(text).locations.length)).toEqual([
    50_000, 50_000, 1,
  ]);
});
