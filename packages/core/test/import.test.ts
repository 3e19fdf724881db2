import { parse } from 'yaml';
import { formats, proposals } from '../src/index.ts';
import { siteOf } from './support.ts';

describe('sitemaps', () => {
  const NAMESPACE = 'xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"';

  test('are read with namespaces, entities, CDATA and extensions', () => {
    const xml = `<?xml version="1.0" encoding="UTF-8"?>
<s:urlset xmlns:s="http://www.sitemaps.org/schemas/sitemap/0.9" xmlns:image="https://images.example/ns">
  <s:url><s:loc> https://x.example/a?b=1&amp;c=2 </s:loc><s:lastmod>2026-01-01</s:lastmod></s:url>
  <s:url><s:loc><![CDATA[https://x.example/<b>]]></s:loc><image:image><image:loc>https://x.example/i.png</image:loc></image:image></s:url>
  <s:url></s:url>
</s:urlset>`;
    expect(formats.readSitemap(xml)).toEqual({
      is: 'urls',
      locations: ['https://x.example/a?b=1&c=2', 'https://x.example/<b>'],
    });
  });

  test('an index is told from a sitemap, and both may be empty', () => {
    const index = `<sitemapindex ${NAMESPACE}><sitemap><loc>https://x.example/1.xml</loc></sitemap></sitemapindex>`;
    expect(formats.readSitemap(index)).toEqual({
      is: 'index',
      locations: ['https://x.example/1.xml'],
    });
    expect(formats.readSitemap(`<urlset ${NAMESPACE}/>`)).toEqual({ is: 'urls', locations: [] });
    expect(formats.readSitemap(`<sitemapindex ${NAMESPACE}></sitemapindex>`)).toEqual({
      is: 'index',
      locations: [],
    });
  });

  test.each(['', 'text', '<urlset>', '<rss><channel/></rss>', '{}'])('%j is none', (text) => {
    expect(() => formats.readSitemap(text)).toThrow(formats.SitemapProblem);
  });

  test('an entity that multiplies itself is not expanded', () => {
    const entities = Array.from(
      { length: 9 },
      (_, i) => `<!ENTITY e${i + 1} "${`&e${i};`.repeat(10)}">`,
    ).join('');
    const bomb = `<?xml version="1.0"?><!DOCTYPE urlset [<!ENTITY e0 "x">${entities}]><urlset><url><loc>&e9;</loc></url></urlset>`;
    let longest = 0;
    try {
      longest = Math.max(...formats.readSitemap(bomb).locations.map(({ length }) => length), 0);
    } catch {
      // Refusing it is as good.
    }
    expect(longest).toBeLessThan(10_000);
  });
});

describe('proposed pages', () => {
  const site = siteOf(
    'pages: { /: Home, /journal/:slug: Entry }\nredirects: [{ from: "https://old.example/*", to: "/*" }]',
  );
  const propose = (...addresses: string[]) =>
    proposals.proposePages(
      site,
      addresses.map((address) => ({ address })),
    );

  test('are those that no page of the site has, once each', () => {
    const { additions, known } = propose(
      '/a',
      '/A/',
      'https://test.example/a?x=1',
      '/',
      '/journal/owl',
      '/b',
    );
    expect(additions.map(({ name }) => name)).toEqual(['/a', '/b']);
    expect(known).toBe(4);
  });

  test('count what is elsewhere, and tell what is no address', () => {
    const { additions, elsewhere, refused } = propose(
      'https://else.example/a',
      'https://old.example/c',
      '/%2f',
      'mailto:x@y.example',
    );
    expect([elsewhere, refused.map(({ what }) => what)]).toEqual([
      1,
      ['/%2f', 'mailto:x@y.example'],
    ]);
    expect(additions).toEqual([{ section: 'pages', name: '/c', value: 'C' }]);
  });

  test.each([
    ['/about-us', 'About us', undefined],
    ['/files/annual_report.pdf', 'Annual report', 'file'],
    ['/index.html', 'Index', undefined],
    ['/caf%C3%A9', 'Café', undefined],
    ['/v1.2', 'V1', 'file'],
  ])('%s is called "%s"', (address, title, kind) => {
    expect(propose(address).additions[0]).toEqual({
      section: 'pages',
      name: address,
      value: kind === undefined ? title : { title, kind },
    });
  });
});

describe('adding pages to a site file', () => {
  const pages = [
    { section: 'pages' as const, name: '/x', value: 'X: the first' },
    { section: 'pages' as const, name: '/y.pdf', value: { title: 'Y', kind: 'file' } },
  ];
  const added = { '/x': 'X: the first', '/y.pdf': { title: 'Y', kind: 'file' } };

  test.each([
    'site: { name: S }\npages:\n  /: Home # home\n',
    'site: { name: S }\npages:\n    /:\n        title: Home\n\n# the end\nroles: {}\n',
    'site: { name: S }\npages:\n  /: Home',
    'pages:\nsite: { name: S }\n',
    'site: { name: S }\n',
    '{ "site": { "name": "S" }, "pages": { "/": "Home" } }',
  ])('%j', (text) => {
    const changed = proposals.addEntries(text, pages);
    const before = (parse(text) as { pages?: object | null }).pages ?? {};
    expect(parse(changed)).toEqual({ ...(parse(text) as object), pages: { ...before, ...added } });
    const comments = text.split('\n').filter((line) => line.includes('#'));
    for (const comment of comments) expect(changed).toContain(comment);
  });

  test('nothing to add changes nothing', () => {
    expect(proposals.addEntries('pages:   {}', [])).toBe('pages:   {}');
  });
});
