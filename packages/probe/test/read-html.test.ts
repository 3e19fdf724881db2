import { once } from 'node:events';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { readHtml } from '../src/crawl/read-html.ts';
import { robotsOf } from '../src/crawl/robots.ts';

const at = 'https://h.example/dir/page';
const read = (html: string) => readHtml(html, at);

describe('what a crawl takes from a page', () => {
  test.each([
    ['<title> A &amp; B\n C </title>', 'A & B C'],
    ['<TITLE>Upper</TITLE>', 'Upper'],
    ['<svg><title>not</title></svg><title>it</title>', 'not'],
    ['<title></title>', null],
    ['<p>none', null],
    [`<title>${'x'.repeat(500)}</title>`, 'x'.repeat(200)],
  ])('%s has the title %j', (html, title) => {
    expect(read(html).title).toBe(title);
  });

  test('links are whole addresses without fragments, each once', () => {
    const { links } = read(
      `<a href="x">1</a><a href="./x#y">2</a><a href="/r?q=1&amp;p=2">3</a><a href="//o.example/">4</a>
       <area href="map"><iframe src="frame"></iframe><a name="none">5</a><a href="http://[">6</a><a href=" sp ">7</a>`,
    );
    expect(links).toEqual([
      'https://h.example/dir/x',
      'https://h.example/r?q=1&p=2',
      'https://o.example/',
      'https://h.example/dir/map',
      'https://h.example/dir/frame',
      'https://h.example/dir/sp',
    ]);
  });

  test('a base moves them', () => {
    expect(read('<base href="/other/"><a href="x">').links).toEqual(['https://h.example/other/x']);
  });

  test('menus are navigation with two links or more, and end where they end', () => {
    const { menus } = read(
      `<nav aria-label="Main"><ul><li><a href="/a">A</a><li><a href="/b">B</a></ul></nav>
       <a href="/c">C</a>
       <div role="navigation" id="foot"><a href="/d">D</a><a href="/e">E</a></div>
       <nav><a href="/alone">x</a></nav>
       <div data-kleidon-menu="crew"><a href="/alone">x</a></div>
       <nav data-kleidon-menu="{}"><a href="/alone">x</a></nav>`,
    );
    expect(menus).toEqual([
      { name: null, label: 'Main', links: ['https://h.example/a', 'https://h.example/b'] },
      { name: null, label: 'foot', links: ['https://h.example/d', 'https://h.example/e'] },
      { name: 'crew', label: '', links: ['https://h.example/alone'] },
    ]);
  });

  test.each([
    ['<meta property="og:site_name" content=" The\n Club ">', 'The Club'],
    ['<meta name="application-name" content="A"><meta property="og:site_name" content="B">', 'B'],
    ['<meta property="og:site_name" content=""><title>x</title>', null],
  ])('%s names the website %j', (html, name) => {
    expect(read(html).siteName).toBe(name);
  });

  test.each([
    ['noindex', false, true],
    ['NOFOLLOW', true, false],
    ['none', false, false],
    ['index, follow', true, true],
  ])('robots %s', (content, listed, follow) => {
    const page = read(`<meta name="robots" content="${content}">`);
    expect([page.listed, page.follow]).toEqual([listed, follow]);
  });

  test('what is not HTML is no trouble', () => {
    for (const text of [
      '',
      '<',
      '<a href=',
      '\u0000<nav><nav><a href="/x">',
      '<![CDATA[<a href="/y">]]>',
    ])
      expect(() => read(text)).not.toThrow();
  });
});

test('a hostile page costs no more than its length', () => {
  const links = Array.from({ length: 100_000 }, (_, i) => `<a href="p${i}">`).join('');
  const long = `<base href="/${'b'.repeat(1_000_000)}/">${links}`;
  const page = readHtml(long, 'https://h.example/');
  // A base that no server would take is none.
  expect(page.links).toHaveLength(5_000);
  expect(page.links[0]).toBe('https://h.example/p0');
  const menus = readHtml(
    `<nav><a href="a"><a href="b"></nav>`.repeat(10_000),
    'https://h.example/',
  );
  expect(menus.menus).toHaveLength(100);
  expect(readHtml(`<a href="/${'x'.repeat(10_000)}">`, 'https://h.example/').links).toEqual([]);
});

describe('robots.txt of a hostile website', () => {
  const reading = async (text: string) => {
    const server = createServer((_, response) => {
      response.setHeader('Content-Type', 'text/plain').end(text);
    }).listen(0, '127.0.0.1');
    await once(server, 'listening');
    const origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    try {
      const robots = await robotsOf(origin, 5);
      return (path: string): boolean => robots.allows(origin + path);
    } finally {
      server.close();
    }
  };

  test('a rule with thousands of wildcards excludes what its beginning does, and allows nothing', async () => {
    const stars = '*a'.repeat(200_000);
    const allows = await reading(
      `User-agent: *\nDisallow: /private${stars}\nDisallow: /\nAllow: /open${stars}\nAllow: /pages\n`,
    );
    for (let i = 0; i < 1000; i++) expect(allows(`/pages/${'a'.repeat(1000)}${i}`)).toBe(true);
    expect([allows('/privateaaaaaaaaaaaaaaaaaaaaaaaaaaaa'), allows('/open')]).toEqual([
      false,
      false,
    ]);
  });

  test('more rules than anyone writes are not read, and nothing is', async () => {
    const rules = Array.from({ length: 20_000 }, (_, i) => `Disallow: /p${i}`);
    await expect(reading(`User-agent: *\n${rules.join('\n')}`)).rejects.toThrow(
      'has more than 10000 rules',
    );
  });
});
