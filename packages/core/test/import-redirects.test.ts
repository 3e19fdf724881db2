import { decisions, proposals, queries, siteFiles } from '../src/index.ts';
import { errorsOf, GUEST, NOW, siteOf } from './support.ts';

const HEAD = 'kleidon: 1\nsite: { name: T, address: https://t.example }\n';
const SITE = `${HEAD}pages: { /: Home, /new: New }\n`;
const proposed = (csv: string, site = SITE) =>
  queries.explainProposal(proposals.proposeRedirectsFromCsv(siteFiles.valueOf(site), csv));
const prepared = (text: string) => {
  const read = siteFiles.readSite(text, 'x');
  if (!read.ok)
    throw new Error(
      queries
        .explainErrors(read.errors)
        .map(({ message }) => message)
        .join('\n'),
    );
  return decisions.prepareSite(read.site);
};

describe('redirects of a list', () => {
  test.each([
    '/old/(weird).html',
    '/c++',
    '/a:b',
    '/%7Bx%7D',
    '/{x}',
    '/what*ever',
    '/old(x)?id=7',
    'https://old.example/(x)',
  ])('%s stands for itself', (from) => {
    const { additions, refused, patterns } = proposed(`from,to\n${from},/new\n`);
    expect([refused, patterns]).toEqual([[], []]);
    const site = prepared(proposals.addEntries(SITE, additions));
    const end = decisions.visit(site, { method: 'GET', address: from }, GUEST, NOW);
    expect(end).toMatchObject({ outcome: 'reach', final: '/new' });
  });

  test('what is clearly a pattern is one, and is told', () => {
    const csv = 'from,to\n/blog/*,/new\n/a/:year,/y/:year\n/x?id=:n,/n/:n\n/(y),/(z)\n';
    const { additions, patterns } = proposed(csv);
    expect(patterns).toEqual(['/blog/*', '/a/:year', '/x?id=:n']);
    expect(additions.map(({ value }) => value)).toContainEqual({
      from: '/\\(y\\)',
      to: '/\\(z\\)',
    });
  });

  test('of two that lead from one address to different ones, neither is taken', () => {
    const { additions, refused } = proposed('from,to\n/a,/new\n/A/,/\n/b,/new\n/b,/new\n');
    expect(additions.map(({ name }) => name)).toEqual(['/b']);
    expect(refused.map(({ what, line, why }) => ({ what, line, why }))).toEqual([
      {
        what: '/a',
        line: 2,
        why: expect.stringContaining('Line 3 leads from the same address') as string,
      },
      {
        what: '/A/',
        line: 3,
        why: expect.stringContaining('Line 2 leads from the same address') as string,
      },
      { what: '/b', line: 5, why: 'It stands on line 4 already.' },
    ]);
    const keeps = SITE.replace('}', ', tidy: { case: keep } }');
    expect(proposed('from,to\n/a,/new\n/A,/\n', keeps).refused).toEqual([]);
  });

  test('a row that is too long is refused, in lists beside the site file too', () => {
    const row = '/a,/new,moved, then forgotten';
    expect(proposed(`from,to,note\n${row}\n`).refused).toMatchObject([{ line: 2, what: '/a' }]);
    const read = siteFiles.readSite(
      `${SITE}redirect-lists: [l.csv]\n`,
      'x',
      () => `from,to,note\n${row}\n`,
    );
    expect(read).toMatchObject({ ok: false, errors: [{ code: 'csv', file: 'l.csv', line: 2 }] });
  });

  test('of two spellings of one address, tidying is named as what does it already', () => {
    const tidied = SITE.replace(
      'https://t.example }',
      'https://t.example, tidy: { index: [index, /home], endings: [.html] } }',
    );
    const csv =
      'from,to\n/index.html,/\n/home,/\n/NEW/,https://t.example/new\n/new?x=1,/new\n/new,/new\n/other.html,/new\n';
    const { additions, refused } = proposed(csv, tidied);
    expect(refused.map(({ what, why }) => [what, why])).toEqual(
      ['/index.html', '/home', '/NEW/'].map((one) => [
        one,
        'Tidying already does this: both are one address on this site.',
      ]),
    );
    expect(additions.map(({ name }) => name)).toEqual(['/new?x=1', '/new', '/other.html']);
  });

  test.each([
    ['/index.html', '/', 'Remove it: tidying already does this.'],
    ['/new/', 'https://t.example/new', 'Remove it: tidying already does this.'],
    ['/:x.html', '/:x', 'Remove it: tidying already does this.'],
    ['/new', '/new', 'Remove it.'],
  ])('from %s to %s is a loop of its own, which goes with the redirect', (from, to, remedy) => {
    const text = `${SITE.replace('https://t.example }', 'https://t.example, tidy: { index: [index], endings: [.html] } }')}redirects: [{ from: '${from}', to: '${to}' }]\n`;
    const site = prepared(text);
    const [loop, ...others] = queries.inspect(site, 'x', NOW);
    expect([loop, others]).toMatchObject([{ code: 'redirect-loop', remedy }, []]);
    const file = { text, name: 'x', listOf: () => null };
    const fixed = queries.tryFix(file, site, [loop!], null, NOW);
    expect(fixed).toMatchObject({
      refusal: null,
      text: text.replace(/redirects: .*\]/, 'redirects: []'),
    });
  });

  test('loops and dead ends are told before they are written', () => {
    const csv = 'from,to\n/a,/b\n/b,/a\n/c,/gone\n';
    const before = queries.inspect(prepared(SITE), 'x', NOW);
    const after = queries.inspect(
      prepared(proposals.addEntries(SITE, proposed(csv).additions)),
      'x',
      NOW,
    );
    const codes = queries.introducedFindings(before, after).map(({ code }) => code);
    expect(codes).toEqual(expect.arrayContaining(['redirect-loop', 'redirect-dead-end']));
  });
});

test('pages of a list stand for themselves too', () => {
  const site = prepared(SITE);
  const { additions, patterns } = proposals.proposePagesFromCsv(
    site,
    siteFiles.valueOf(SITE),
    'address\n/old/(weird)\n/p/:id\n',
  );
  expect(patterns).toEqual(['/p/:id']);
  expect(additions.map(({ name }) => name)).toEqual(['/old/\\(weird\\)', '/p/:id']);
});

describe('a query behind a piece', () => {
  test.each(['/a/:y?q=:v', '/a/*?q=1', '/a/(x)?q=1', '{/a}?q=1'])('%s is an error', (from) => {
    const [error] = errorsOf(`pages: { /: H }\nredirects: [{ from: '${from}', to: / }]`);
    expect(error).toMatchObject({ code: 'pattern' });
    expect(error!.remedy).toContain(from.replace('?', '\\?'));
  });

  test('begins at an escaped question mark, as the URL Pattern Standard has it', () => {
    const site = siteOf(
      String.raw`pages: { /: H, '/b/:y/:v': { title: B, example: /b/1/2 } }
redirects: [{ from: '/a/:y\?q=:v', to: '/b/:y/:v' }]`,
    );
    const end = decisions.visit(site, { method: 'GET', address: '/a/1?q=2' }, GUEST, NOW);
    expect(end).toMatchObject({ outcome: 'reach', final: '/b/1/2' });
  });
});

describe('long parts of a site file have a line for each entry', () => {
  const lines = (text: string) => text.split('\n');
  const pages = Array.from({ length: 20 }, (_, i) => ({
    section: 'pages' as const,
    name: `/page-${i}`,
    value: `Page ${i}`,
  }));

  test('where entries in braces are imported', () => {
    const text = proposals.addEntries(`${HEAD}pages: { /: Home }\n# the end\nroles: {}\n`, pages);
    expect(lines(text).slice(2, 6)).toEqual([
      'pages:',
      '  /: Home',
      '  /page-0: Page 0',
      '  /page-1: Page 1',
    ]);
    expect(text).toContain('\n  /page-19: Page 19\n# the end\nroles: {}\n');
    expect(prepared(text).site.pages).toHaveLength(21);
  });

  test('where a patch makes them long', () => {
    const text = siteFiles.patchSite(
      `${HEAD}pages: { /: Home }\nroles: {}\n`,
      pages.map(({ name, value }) => ({
        op: 'add',
        path: `/pages/${name.replace('/', '~1')}`,
        value,
      })),
    );
    expect(lines(text).slice(2, 5)).toEqual(['pages:', '  /: Home', '  /page-0: Page 0']);
    expect(text.endsWith('  /page-19: Page 19\nroles: {}\n')).toBe(true);
  });

  test('and short ones stay as they are', () => {
    const text = siteFiles.patchSite(`${HEAD}pages: { /: Home }\n`, [
      { op: 'add', path: '/pages/~1a', value: 'A' },
    ]);
    expect(lines(text)[2]).toBe('pages: { /: Home, /a: A }');
  });
});

test('what a patch tests for is the same in any order of its names', () => {
  const text = `${HEAD}pages: { /: { title: Home, draft: yes } }\n`;
  const value = { draft: 'yes', title: 'Home' };
  expect(siteFiles.patchSite(text, [{ op: 'test', path: '/pages/~1', value }])).toBe(text);
  const other = { draft: 'no', title: 'Home' };
  expect(() =>
    siteFiles.patchSite(text, [{ op: 'test', path: '/pages/~1', value: other }]),
  ).toThrow('another one');
});
