import { createServer, type ServerResponse } from 'node:http';
import { once } from 'node:events';
import type { AddressInfo } from 'node:net';
import { brotliCompressSync, gzipSync } from 'node:zlib';
import fc from 'fast-check';
import { createClient } from '@kleidon/client';
import { kleidon } from '../../cli/test/cli.ts';
import {
  UnclearPage,
  withoutHidden,
  type MarkupVisibility,
} from '../src/gateway/marks/marked-page.ts';
import { pageText } from '../src/gateway/marks/page-text.ts';
import { readHtml } from '../src/gateway/marks/read-html.ts';
import { readXml } from '../src/gateway/marks/read-xml.ts';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { run, temporaryFolder, type Running } from './running.ts';

const SEES: MarkupVisibility = {
  part: (name) => name === 'yes' || name === 'vögel',
  onlyUsable: (menu) => menu === 'main',
  link: (href) => !href.startsWith('/no'),
};

const seen = (page: Buffer, charset: string | null = null, read = readHtml): Buffer =>
  withoutHidden(page, read(pageText(page, charset)), SEES);
const rewritten = (html: string, read = readHtml): string =>
  seen(Buffer.from(html), null, read).toString();

const part = (name: string, inside = 'x') => `<div data-kleidon-part="${name}">${inside}</div>`;
const menu = (inside: string, name = 'main') => `<nav data-kleidon-menu="${name}">${inside}</nav>`;

const PAGES: readonly (readonly [string, string, string])[] = [
  ['a part that is shown stays', `a${part('yes')}b`, `a${part('yes')}b`],
  ['a part that is not goes', `a${part('no')}b`, 'ab'],
  ['one in another', part('yes', `a${part('no')}b`), part('yes', 'ab')],
  ['a shown one in a hidden one goes too', `a${part('no', part('yes'))}b`, 'ab'],
  ['a name in UTF-8', `a${part('vögel')}${part('vogel')}b`, `a${part('vögel')}b`],
  ['a name with a reference', 'a<p data-kleidon-part="&#110;o">x</p>b', 'ab'],
  ['capitals, without quotes', 'a<DIV\nDATA-KLEIDON-PART=no>x</DIV >b', 'ab'],
  ['an end tag with more in it', `a${part('no').slice(0, -1)} class=x\n>b`, 'ab'],
  ['such an end of an entry', menu('<li><a href="/no">A</a ></li\n>b'), menu('b')],
  ['elements of the same name in it', `a${part('no', '<div><div>x</div></div>')}b`, 'ab'],
  ['an end that is left out', '<p data-kleidon-part=no>x<p>y', '<p>y'],
  ['an entry whose end is left out', '<ul><li data-kleidon-part=no>x<li>y</ul>', '<ul><li>y</ul>'],
  ['an element without an end', 'a<img data-kleidon-part=no src="x">b', 'ab'],
  ['what is never closed', 'a<div data-kleidon-part=no>x', 'a'],
  ['a slash closes nothing', 'a<div data-kleidon-part=no />x', 'a'],
  ['a comment is no mark', `<!-- ${part('no')} -->`, `<!-- ${part('no')} -->`],
  ['nor is a script', `<script>"${part('no')}"</script>`, `<script>"${part('no')}"</script>`],
  [
    'nor a text field',
    '<textarea><p data-kleidon-part=no></textarea>',
    '<textarea><p data-kleidon-part=no></textarea>',
  ],
  ['a link that works stays', menu('<a href="/a">A</a>'), menu('<a href="/a">A</a>')],
  [
    'one that does not goes',
    menu('<a href="/no">A</a> | <a href="/b">B</a>'),
    menu(' | <a href="/b">B</a>'),
  ],
  [
    'with its entry',
    menu('<ul><li> <a href="/no">A</a> </li><li>B</li></ul>'),
    menu('<ul><li>B</li></ul>'),
  ],
  [
    'with what only wraps it',
    menu('<ul><li><b><a href="/no">A</a></b></li></ul>'),
    menu('<ul></ul>'),
  ],
  [
    'an entry with more stays',
    menu('<li><a href="/no">A</a> and <a href="/b">B</a></li>'),
    menu('<li> and <a href="/b">B</a></li>'),
  ],
  [
    'an entry above others stays',
    menu('<ul><li><a href="/no">A</a><ul><li><a href="/b">B</a></li></ul></li></ul>'),
    menu('<ul><li><ul><li><a href="/b">B</a></li></ul></li></ul>'),
  ],
  ['a link with a reference', menu('<a href="&#47;no">A</a>'), menu('')],
  [
    'a menu that shows everything',
    menu('<a href="/no">A</a>', 'foot'),
    menu('<a href="/no">A</a>', 'foot'),
  ],
  ['a link outside of menus', '<li><a href="/no">A</a></li>', '<li><a href="/no">A</a></li>'],
  [
    'a hidden part in a menu',
    menu(`<li>${part('no')}<a href="/b">B</a></li>`),
    menu('<li><a href="/b">B</a></li>'),
  ],
  ['what looks like a tag', 'a < b <', 'a < b <'],
  ['odd ends', '</p></br></div>x', '</p></br></div>x'],
];

describe('marks in a page', () => {
  test.each(PAGES)('%s', (_, page, expected) => {
    expect(rewritten(page)).toBe(expected);
  });

  test('without a part or a menu of ours not a byte changes', () => {
    const piece = fc.constantFrom(
      ...['<', '>', '/', '"', "'", '=', ' ', '<p', '<div class="x">', '</div>', '<!--', '-->', 'é'],
      ...['<script>', '</script>', '<![CDATA[', '&amp;', '&', '<li>', '<a href="/no">', '</a>'],
      ...[
        '<nav>',
        '</nav>',
        '<br/>',
        '<title>',
        '</title>',
        '<svg>',
        '<?php',
        'text',
        '\n',
        '<table>',
        '<td>',
        '<select>',
      ],
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 60 }), (pieces) => {
        const page = pieces.join('');
        expect(rewritten(page)).toBe(page);
      }),
      { numRuns: 500 },
    );
  });

  test('what is hidden is hidden whatever stands around and in it', () => {
    const around = fc.constantFrom('', '<p>a</p>', '<ul><li>b</ul>', 'é', '<!-- c -->', '<br>');
    const inside = fc.constantFrom('', '<p>x', '<b>x</b>', '<div>x</div>', '<!-- x -->', '<img>');
    fc.assert(
      fc.property(around, fc.array(inside), around, (a, x, b) => {
        expect(rewritten(a + part('no', x.join('')) + b)).toBe(a + b);
      }),
    );
  });

  test('bytes that are no UTF-8 stay as they are', () => {
    const page = Buffer.concat([
      Buffer.from(`a${part('no')}`),
      Buffer.from([0xe9, 0xff, 0x80, 0xc3]),
    ]);
    expect([...seen(page)]).toEqual([0x61, 0xe9, 0xff, 0x80, 0xc3]);
  });
});

const SITE = `kleidon: 1
site: { name: Marks, address: https://marks.example }
roles: { crew: x }
pages: { /: Home, '/:page': { title: Any, example: /marked }, /closed: Closed }
gates: { closed: { at: /closed, admit: role crew } }
parts: { crew: { admit: role crew }, all: { admit: anyone } }
menus: { main: { links: [/, /closed], shows: usable } }
`;
const MARKED =
  '<html><p data-kleidon-part="crew">secret</p><p data-kleidon-part="typo">t</p><nav data-kleidon-menu=main><a href="https://marks.example/closed">C</a><a href="x">X</a><a href="mailto:a@b.c">M</a></nav></html>';
const SEEN =
  '<html><nav data-kleidon-menu=main><a href="x">X</a><a href="mailto:a@b.c">M</a></nav></html>';
const PLAIN = '<html><p>as it is</p></html>';

test.each([
  [
    'what is closed at once holds nothing',
    '<x><part/><p data-kleidon-part="no"/>a</x>',
    '<x><part/>a</x>',
  ],
  [
    'letters count',
    '<x><P Data-Kleidon-Part="no">a</P></x>',
    '<x><P Data-Kleidon-Part="no">a</P></x>',
  ],
  ['entities in the name', '<x><p data-kleidon-part="&#110;o">s</p>a</x>', '<x>a</x>'],
  [
    'what only looks like an end',
    '<x><p data-kleidon-part="no"><!-- </p> --><?a </p>?>s</p>a</x>',
    '<x>a</x>',
  ],
  [
    'menus',
    '<ul data-kleidon-menu="main"><li><a href="/no">N</a></li></ul>',
    '<ul data-kleidon-menu="main"></ul>',
  ],
])('in XML, %s', (_, page, expected) => {
  expect(rewritten(page, readXml)).toBe(expected);
});

test.each([
  '<x><p data-kleidon-part="no">s</x>',
  '<!DOCTYPE x [<!ENTITY s "<p data-kleidon-part=\'no\'>s</p>">]><x>&s;</x>',
  '<x>&nbsp;<p data-kleidon-part="no">s</p></x>',
])('XML that browsers may read otherwise is not read: %s', (page) => {
  expect(() => rewritten(page, readXml)).toThrow(UnclearPage);
});

test.each([
  [`<table data-kleidon-part=no>s</table>`, 'put outside'],
  [`<div data-kleidon-part=no>${'<b>'.repeat(600)}`, 'nested deeper'],
  [
    `<div data-kleidon-part=no ${Array.from({ length: 20_000 }, (_, i) => `a${i}`).join(' ')}>`,
    'attributes',
  ],
  ['<p>a<frameset data-kleidon-part=no>', 'makes no element'],
  ['<p>a<div data-kleidon-part=no title="s', 'ends within a tag'],
  ['<p data-kleidon-part=no>s\0</p>', 'NUL'],
  ['<p data-kleidon-part=no>s\x1b(B</p>', 'escape sequences'],
])('HTML that browsers may read otherwise is not read: %s', (page, why) => {
  expect(() => rewritten(page)).toThrow(why);
});

test('tens of thousands of tags in one another, or beside each other, cost what they are long', () => {
  const beside = `<div data-kleidon-part=no>${'<p><b>x</b><table><tr><td><i>y'.repeat(100)}</div>${'<p>z'.repeat(60_000)}`;
  expect(() => rewritten(beside)).not.toThrow(RangeError);
  expect(() => rewritten(`${part('no')}${'<div>'.repeat(200_000)}`)).toThrow(UnclearPage);
  const open = Array.from({ length: 300 }, (_, i) => `<b a${i}>`).join('');
  const again = `${part('no')}<p>${open}</p>${'<p>x</p>'.repeat(20_000)}`;
  expect(() => rewritten(again)).toThrow(UnclearPage);
});

describe('marked pages through the gateway', () => {
  const folder = temporaryFolder();
  let service: Running;
  let asked: (string | undefined)[] = [];
  const send = (response: ServerResponse, body: string | Buffer, more: Record<string, string>) => {
    response.writeHead(200, {
      'Content-Type': 'text/html; charset=utf-8',
      'Content-Length': Buffer.byteLength(body),
      ETag: '"1"',
      'Cache-Control': 'public, max-age=60',
      ...more,
    });
    response.end(body);
  };
  const origin = createServer((request, response) => {
    asked.push(request.headers['accept-encoding']);
    const { range } = request.headers;
    switch (request.url) {
      case '/plain':
        return void send(response, PLAIN, {});
      case '/gzip-plain':
        return void send(response, gzipSync(PLAIN), { 'Content-Encoding': 'gzip' });
      case '/gzip':
        return void send(response, gzipSync(MARKED), { 'Content-Encoding': 'gzip' });
      case '/br':
        return void send(response, brotliCompressSync(MARKED), { 'Content-Encoding': 'br' });
      case '/zstd':
        return void send(response, 'x', { 'Content-Encoding': 'zstd' });
      case '/broken':
        return void send(response, gzipSync(MARKED).subarray(0, 60), {
          'Content-Encoding': 'gzip',
        });
      case '/text':
        return void send(response, MARKED, { 'Content-Type': 'text/plain' });
      case '/long':
        return void send(response, MARKED.replace('</html>', `${'x'.repeat(400_000)}</html>`), {});
      case '/slow':
        response.writeHead(200, { 'Content-Type': 'text/html' });
        response.write(MARKED.slice(0, 40));
        asked.push('waits');
        return void setTimeout(() => response.end(MARKED.slice(40)), 250);
      case '/endless':
        response.writeHead(200, { 'Content-Type': 'text/html' });
        return void response.write(MARKED.slice(0, 40));
      default:
        if (range === undefined) return void send(response, MARKED, {});
        response.writeHead(206, { 'Content-Type': 'text/html', 'Content-Range': 'bytes 30-50/9' });
        return void response.end(MARKED.slice(30, 50));
    }
  });
  const get = (path: string, headers: Record<string, string> = {}, method = 'GET') =>
    fetch(service.gateway + path, { headers, method });

  beforeAll(async () => {
    origin.listen(0, '127.0.0.1');
    await once(origin, 'listening');
    const settings = join(folder.path, 'kleidon.yaml');
    const { port } = origin.address() as AddressInfo;
    writeFileSync(
      settings,
      `gateways: [{ site: marks, port: 0, origin: "http://127.0.0.1:${port}", origin-timeout: 1 }]`,
    );
    const file = join(folder.path, 'marks.site.yaml');
    writeFileSync(file, SITE);
    service = await run(folder.path, '--settings', settings, '--log-level', 'error');
    await kleidon(['sites', 'add', file, '--id', 'marks', '--service', service.address]);
    await kleidon(['release', '--note', 'x', '--service', service.address]);
  });
  afterAll(async () => {
    await service.end();
    origin.close();
    folder.remove();
  });
  beforeEach(() => (asked = []));

  test.each(['/marked', '/gzip', '/br', '/slow'])(
    '%s comes without what is not for a guest',
    async (path) => {
      const answer = await get(path);
      expect(await answer.text()).toBe(SEEN);
      expect(answer.headers.get('Cache-Control')).toBe('private, no-store');
      expect(answer.headers.get('ETag')).toBeNull();
      expect(answer.headers.get('Content-Encoding')).toBeNull();
    },
  );

  test('a long page is rewritten as it streams', async () => {
    const text = await (await get('/long')).text();
    expect(text).toBe(SEEN.replace('</html>', `${'x'.repeat(400_000)}</html>`));
  });

  test.each(['/plain', '/gzip-plain'])(
    '%s has no marks, and comes as the website sent it',
    async (path) => {
      const answer = await get(path);
      expect(await answer.text()).toBe(PLAIN);
      expect(answer.headers.get('ETag')).toBe('"1"');
      expect(answer.headers.get('Cache-Control')).toBe('public, max-age=60');
      expect(answer.headers.get('Content-Length')).not.toBeNull();
    },
  );

  test('only HTML is looked at', async () => {
    expect(await (await get('/text')).text()).toBe(MARKED);
  });

  test('a piece of a page is not given: it could begin in the middle of a part', async () => {
    const answer = await get('/marked', { Range: 'bytes=30-50' });
    expect([answer.status, await answer.text()]).toEqual([200, SEEN]);
  });

  test('of the codings that a client takes, only those that can be taken off are asked for', async () => {
    await get('/plain', { 'Accept-Encoding': 'zstd, gzip;q=0.5, br, compress' });
    await get('/plain', { 'Accept-Encoding': 'zstd' });
    expect(asked).toEqual(['gzip;q=0.5, br', 'identity']);
  });

  test('HTML in another coding, or broken off, is not passed on as if it were whole', async () => {
    expect((await get('/zstd')).status).toBe(502);
    await expect(get('/broken').then((answer) => answer.text())).rejects.toThrow();
  });

  test('a page that the website does not complete in time is a 504', async () => {
    const closed = once(origin, 'request').then(([, response]) =>
      once(response as ServerResponse, 'close'),
    );
    expect((await get('/endless')).status).toBe(504);
    await closed;
  });

  test('HEAD promises no length and no tag that GET would not keep', async () => {
    const answer = await get('/marked', {}, 'HEAD');
    expect([
      answer.status,
      answer.headers.get('ETag'),
      answer.headers.get('Content-Length'),
    ]).toEqual([200, null, null]);
  });

  test('a site file that lost its parts lets nobody see them', async () => {
    const client = createClient(service.address);
    const { version } = await client.saveDraft('marks', 1, SITE.replace(/^parts.*\n/m, ''));
    await client.release('marks', version, 'Without parts');
    expect(await (await get('/marked')).text()).toBe(SEEN);
  });
});
