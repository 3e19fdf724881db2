import fc from 'fast-check';
import { decisions, queries, siteFiles } from '../src/index.ts';
import { readTable } from '../src/formats/csv.ts';
import { redirectFromList } from '../src/pattern/literally.ts';
import { regexpSource } from '../src/pattern/regexp.ts';
import { GUEST, NOW, siteOf, textsOf } from './support.ts';

const SITE = `kleidon: 1
site: { name: L, address: https://l.example }
roles: { crew: x }
pages: { /new: New }
redirects: [{ from: /a, to: /from-the-site-file }]
redirect-lists: [old.csv, older.csv]
`;
const read = (lists: Record<string, string>, text = SITE) =>
  siteFiles.readSite(text, 'l.site.yaml', (name) => lists[name] ?? null);
const siteWith = (old: string): decisions.PreparedSite => {
  const result = read({ 'old.csv': old, 'older.csv': 'from,to\n' });
  if (!result.ok) throw new Error(JSON.stringify(result.errors));
  return decisions.prepareSite(result.site);
};
const errorsWith = (old: string) => {
  const result = read({ 'old.csv': old, 'older.csv': 'from,to\n' });
  return result.ok
    ? []
    : queries
        .explainErrors(result.errors)
        .map(({ file, line, column, message }) => [file, line, column, message]);
};
const ask = (site: decisions.PreparedSite, address: string) =>
  decisions.decide(site, { method: 'GET', address }, GUEST, NOW);

describe('a list of redirects beside the site file', () => {
  test('is part of the site; reasons say where in the list', () => {
    const site = siteWith(
      'to,from,kind,comment\r\n/new,/old,301,"moved, at last"\r\n/new/:x,/old/:x,,\r\n',
    );
    expect(ask(site, '/old')).toMatchObject({ status: 301, location: '/new' });
    const { status, location, reasons } = ask(site, '/old/7');
    expect([status, location]).toEqual([302, '/new/7']);
    expect(reasons.find(({ verdict }) => verdict === 'redirected')!.place).toEqual({
      file: 'old.csv',
      line: 3,
      column: 1,
    });
    expect(textsOf(ask(site, '/old').reasons).join(' ')).toContain('moved, at last');
  });

  test('addresses stand for themselves unless they are clearly patterns', () => {
    const site = siteWith('from,to\n/old/(weird).html,/new/(x)\n/Help:Contents,/new\n');
    expect(ask(site, '/old/(weird).html').location).toBe('/new/(x)');
    expect(ask(site, '/Help:Contents').location).toBe('/new');
  });

  test.each([
    ['/old/\\(weird\\).html', '/new', '/old/(weird).html'],
    ['/old/\\:x', '/new/\\:x', '/old/\\:x'],
    ['/a/:x', '/new/:x', '/a/:x'],
    ['/article-:id', '/new/:id', '/article-{:id}'],
    ['/article-:id(\\d+)?', '/new/:id', '/article-:id(\\d+)?'],
    ['/n-(a)+.html', '/new', '/n-{(a)}+.html'],
    ['/n-*.html', '/new', '/n-{*}.html'],
    ['/old', '/new/\\(x\\)', '/old'],
    ['https://old.example/\\{x\\}?id=7', '/new', 'https://old.example/\\{x\\}?id=7'],
  ])('%s is written into a list so that it is read as what it was', (from, to, written) => {
    const row = siteFiles.redirectForList({ from, to });
    expect(row.from).toBe(written);
    const again = redirectFromList(row);
    const of = (one: { from: string; to: string }) =>
      decisions.prepareSite(siteOf(`redirects: [{ from: '${one.from}', to: '${one.to}' }]`).site)
        .site.redirects[0]!;
    expect(again.to).toBe(to);
    expect(regexpSource(of(again).pattern.parts)).toBe(
      regexpSource(of({ from, to }).pattern.parts),
    );
  });

  test('a list that is not there is an error where it is named', () => {
    const result = read({ 'old.csv': 'from,to\n' });
    expect(result).toMatchObject({
      ok: false,
      errors: [{ code: 'no-such-list', file: 'l.site.yaml', line: 6, column: 27 }],
    });
  });

  test.each([
    ['/x,/y\n', [1, 1]],
    ['from,to,colour\n/x,/y,red\n', [1, 1]],
    ['from,to\n/x,/y\nno,/y\n', [3, 1]],
    ['from,to\n/x,/y/:z\n', [2, 4]],
    ['from,to,kind\n/x,/y,forever\n', [2, 7]],
    ['from,to,when\n/x,/y,role crw\n', [2, 12]],
    ['from,to,until\n/x,/y,soon\n', [2, 7]],
    ['from,to,rank\n/x,/y,high\n', [2, 7]],
    ['from,to,unless-page\n/x,/y,perhaps\n', [2, 7]],
    ['from,to,note\n/x,,no target\n', [2, 1]],
    ['from,to,say\n/x,/y,words\n', [2, 7]],
    ['from,to,wait,kind\n/x,/y,5s,permanent\n', [2, 7]],
    ['from,to,wait\n/x,/y,long\n', [2, 7]],
    ['from,to,note\n/a,/b,"one\ntwo"\nbad,/y,\n', [4, 1]],
    ['from,to\n"/x,/y\n', [2, 1]],
  ])('%j has one error, in its place', (csv, [line, column]) => {
    expect(errorsWith(csv)).toEqual([['old.csv', line, column, expect.any(String)]]);
  });

  test('one that waits answers with a page in between', () => {
    const site = siteWith(
      'from,to,wait,say\n/moved,/new,5s,We have moved\n/shop,https://shop.example/,1m,\n',
    );
    expect(ask(site, '/moved')).toMatchObject({
      outcome: 'redirect',
      status: 200,
      location: '/new',
      content: { is: 'wait', text: 'We have moved', seconds: 5, to: '/new' },
      headers: { Refresh: '5; url=/new', 'X-Robots-Tag': 'noindex' },
    });
    expect(decisions.visit(site, { method: 'GET', address: '/moved' }, GUEST, NOW)).toMatchObject({
      outcome: 'reach',
      final: '/new',
    });
    expect(ask(site, '/shop')).toMatchObject({ outcome: 'away', status: 200 });
    const sent = decisions.decide(site, { method: 'POST', address: '/moved' }, GUEST, NOW);
    expect([sent.status, sent.content]).toEqual([307, null]);
  });

  test('errors of the site file come before those of the lists', () => {
    const result = read(
      { 'old.csv': 'from,to\nbad,/x\n', 'older.csv': 'from,to\nworse,/x\n' },
      SITE.replace('/new: New', 'new: New'),
    );
    expect(result.ok ? [] : result.errors.map(({ file }) => file)).toEqual([
      'l.site.yaml',
      'old.csv',
      'older.csv',
    ]);
  });

  test('thousands that differ in one field of the query are told apart at once', () => {
    const rows = Array.from({ length: 3000 }, (_, i) => `/show?id=${i},/page-${i}`);
    const site = siteWith(
      ['from,to', ...rows, '/show?id=7&lang=de,/sieben', '/show,/all'].join('\n'),
    );
    const { location, reasons } = ask(site, '/show?id=2999&x=1');
    expect(location).toBe('/page-2999');
    expect(textsOf(reasons.filter(({ stage }) => stage === 'redirect'))).toEqual([
      '/show?id=2999 redirects to /page-2999, temporarily.',
      'The redirect from /show matches too, and is less specific.',
    ]);
    expect(ask(site, '/show?lang=de&id=7').location).toBe('/sieben');
    expect(ask(site, '/show?id=99999').location).toBe('/all');
    expect(ask(site, '/show').location).toBe('/all');
  });
});

test('a table without quotes is read as the parser reads it with quotes', () => {
  const cell = fc
    .stringMatching(/^[a-z0-9 /:*.?&=-]{0,8}$/)
    // Spaces around a value are its own where it is quoted.
    .map((text) => text.trim());
  const line = fc.constantFrom('\n', '\r\n');
  fc.assert(
    fc.property(fc.array(fc.tuple(cell, cell, cell)), line, (rows, end) => {
      const columns = { from: [], to: [], note: [] };
      const plain = ['from,to,note', ...rows.map((row) => row.join(','))].join(end);
      const quoted = [
        '"from",to,note',
        ...rows.map((row) => row.map((one) => `"${one}"`).join(',')),
      ].join(end);
      expect(readTable(plain, columns, 'from')).toEqual(readTable(quoted, columns, 'from'));
    }),
  );
});
