import { spawnSync } from 'node:child_process';
import {
  chmodSync,
  existsSync,
  lstatSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { createServer, type RequestListener, type Server } from 'node:http';
import { once } from 'node:events';
import type { AddressInfo } from 'node:net';
import { extname, join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { type proposals, type queries, siteFiles } from '@kleidon/core';

import { KLEIDON, run, temporaryFolder } from '../../service/test/running.ts';
import { json, kleidon } from './cli.ts';
import { manual } from './manual.ts';

const folder = temporaryFolder();
afterAll(folder.remove);

function write(name: string, content: string | Buffer): string {
  const path = join(folder.path, name);
  writeFileSync(path, content);
  return path;
}

describe('kleidon import sitemap', () => {
  const SITE = `kleidon: 1
site: { name: I, address: https://i.example } # kept
pages:
    /: Home        # spaces and comments stay
    /journal/:slug: Entry

# what follows stays too
redirects: []
`;
  const sitemap = (...locations: string[]): string =>
    `<?xml version="1.0"?><urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">${locations.map((one) => `<url><loc>${one}</loc><priority>0.5</priority></url>`).join('')}</urlset>`;
  const index = (...locations: string[]): string =>
    `<sitemapindex xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">${locations.map((one) => `<sitemap><loc>${one}</loc></sitemap>`).join('')}</sitemapindex>`;
  const PAGES = [
    'https://i.example/',
    'https://i.example/about-us?x=1&amp;y',
    'https://i.example/files/map(1).pdf',
    'https://i.example/journal/owl',
    'https://else.example/x',
    'https://i.example/caf%C3%A9',
    'https://i.example/%2f',
  ];

  test('adds what is new, and changes nothing else by a character', async () => {
    const file = write('i.site.yaml', SITE);
    const source = write('sitemap.xml', sitemap(...PAGES));
    const dry = await kleidon(['import', 'sitemap', source, '--file', file, '--dry-run']);
    expect(dry.out).toContain('3 pages to add; 2 already there, 1 of other hosts, 1 refused');
    const shown = await kleidon(['import', 'sitemap', source, '--file', file]);
    expect(shown.out).toContain(`Nothing was written to ${file}. Add --write to write it.`);
    expect(readFileSync(file, 'utf8')).toBe(SITE);
    const { out } = await kleidon(['import', 'sitemap', source, '--file', file, '--write']);
    expect(out).toContain(`Written to ${file}.`);
    expect(readFileSync(file, 'utf8')).toBe(
      SITE.replace(
        '    /journal/:slug: Entry\n',
        `    /journal/:slug: Entry\n    /about-us: About us\n    /files/map\\(1\\).pdf: { title: Map(1), kind: file }\n    /caf%C3%A9: Café\n`,
      ),
    );
    expect(
      (
        await kleidon([
          'visit',
          '/files/map(1).pdf',
          '--visitor',
          '{ guest: yes }',
          '--file',
          file,
          '--expect',
          'reach',
        ])
      ).code,
    ).toBe(0);
    expect((await kleidon(['import', 'sitemap', source, '--file', file])).out).toContain(
      'nothing to add; 5 already there',
    );
  });

  test('reads index files and gzip, beside it and over HTTP', async () => {
    const packed = gzipSync(sitemap('https://i.example/a'));
    write('part-1.xml.gz', packed);
    write('part-2.xml', sitemap('https://i.example/b'));
    const local = write(
      'index.xml',
      index('https://i.example/part-1.xml.gz', 'https://i.example/part-2.xml'),
    );
    const file = write('ii.site.yaml', SITE);
    expect((await kleidon(['import', 'sitemap', local, '--file', file])).out).toContain(
      '2 pages to add',
    );

    const server = createServer((request, response) => {
      if (request.url === '/index.xml')
        response.end(index(`http://${request.headers.host}/part.xml.gz`));
      else if (request.url === '/part.xml.gz')
        response.end(gzipSync(sitemap('https://i.example/c')));
      else response.writeHead(404).end();
    }).listen(0, '127.0.0.1');
    await once(server, 'listening');
    const at = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    expect((await kleidon(['import', 'sitemap', `${at}/index.xml`, '--file', file])).out).toContain(
      '+ /c',
    );
    const missing = await kleidon(['import', 'sitemap', `${at}/none.xml`, '--file', file]);
    expect([missing.code, missing.err]).toEqual([1, `${at}/none.xml answered 404.\n`]);
    server.close();
    expect((await kleidon(['import', 'sitemap', `${at}/index.xml`, '--file', file])).code).toBe(3);
  });

  test.each([
    ['pages: {}\n', '/x: X'],
    ['pages:\n', '\n  /x: X\n'],
    ['', 'pages:\n  /x: X\n'],
    ['pages: { /a: A }\n', '/a: A'],
  ])('finds a place for pages in %j', async (pages, expected) => {
    const file = write(
      'p.site.yaml',
      `kleidon: 1\nsite: { name: I, address: https://i.example }\n${pages}`,
    );
    await kleidon([
      'import',
      'sitemap',
      write('s.xml', sitemap('https://i.example/x')),
      '--file',
      file,
      '--write',
    ]);
    expect(readFileSync(file, 'utf8')).toContain(expected);
    expect(
      (await kleidon(['visit', '/x', '--visitor', '{}', '--file', file, '--expect', 'reach'])).code,
    ).toBe(0);
  });

  test('a sitemap leads to no other host, and to no file of this machine', async () => {
    const secret = write('secret.xml', sitemap('https://i.example/secret'));
    const asked: string[] = [];
    const inside = createServer((request, response) => {
      asked.push(request.url!);
      response.end(sitemap('https://i.example/inside'));
    }).listen(0, '127.0.0.2');
    await once(inside, 'listening');
    const internal = `http://127.0.0.2:${(inside.address() as AddressInfo).port}/internal.xml`;
    const server = createServer((request, response) => {
      const target = { '/host.xml': internal, '/file.xml': secret, '/url.xml': `file://${secret}` };
      const location = target[request.url as keyof typeof target];
      if (location) response.end(index(location));
      else if (request.url === '/moved.xml') response.writeHead(302, { Location: internal }).end();
      else if (request.url === '/round.xml')
        response.writeHead(302, { Location: '/round.xml' }).end();
      else response.writeHead(404).end();
    }).listen(0, '127.0.0.1');
    await once(server, 'listening');
    const at = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    const file = write('iii.site.yaml', SITE);
    for (const [name, why] of [
      ['host.xml', 'not on its own host'],
      ['file.xml', 'not on its own host'],
      ['url.xml', 'not on its own host'],
      ['moved.xml', 'which is not followed'],
      ['round.xml', 'which is not followed'],
    ]) {
      const { code, err } = await kleidon(['import', 'sitemap', `${at}/${name}`, '--file', file]);
      expect([code, err]).toEqual([1, expect.stringContaining(why!)]);
    }
    expect(asked).toEqual([]);
    server.close();
    inside.close();
  });

  test('what a website calls its pages moves no cursor', async () => {
    const file = write(
      'iv.site.yaml',
      SITE.replace(
        '    /journal',
        '    /t: { title: "a\\e]0;owned\\a\\e[2Jb\\x9b1A\\u202e" }\n    /journal',
      ).concat('visitors: { g: { guest: yes } }\n'),
    );
    for (const options of [[], ['--json']]) {
      const { out } = await kleidon(['visit', '/t', '--as', 'g', '--file', file, ...options]);
      expect(out).toContain('b');

      expect(out).not.toMatch(/\u001b\]|\u001b\[2J|[\u0007\u009b\u202e]/);
    }
  });

  test.each([
    ['<html></html>', 'This is no sitemap: it holds <html>'],
    ['<urlset><url></urlset>', 'This is not XML: line 1'],
    ['', 'This is not XML'],
  ])('%j is refused with a reason', async (text, reason) => {
    const { code, err } = await kleidon([
      'import',
      'sitemap',
      write('bad.xml', text),
      '--file',
      write('x.yaml', SITE),
    ]);
    expect([code, err]).toEqual([1, expect.stringContaining(reason)]);
  });

  test('works on the draft of a service too', async () => {
    const data = temporaryFolder();
    const service = await run(data.path);
    const env = { KLEIDON_SERVICE: service.address };
    await kleidon(['sites', 'add', write('s.site.yaml', SITE)], { env });
    await kleidon(
      ['import', 'sitemap', write('s.xml', sitemap('https://i.example/x')), '--write'],
      { env },
    );
    expect((await kleidon(['draft', 'get'], { env })).out).toContain('    /x: X\n');
    await service.end();
    data.remove();
  });
});

describe('kleidon import csv', () => {
  const SITE = `kleidon: 1
site: { name: C, address: https://c.example, time-zone: Europe/London }
roles: { ringer: Rings }
products: { permit: { title: Permit } }
pages:
  /: Home # kept
  /journal/:slug: Entry
visitors:
  gale: { guest: yes } # kept too
`;

  test('pages: columns in any order, what is there kept, each refusal with its line', async () => {
    const file = write('c.site.yaml', SITE);
    const csv = write(
      'pages.csv',
      [
        'Title;Remark;URL;Listed;Opens',
        'Home again;x;/;;',
        '"About; us";;https://c.example/about;;',
        'Old;;/journal/owl;;',
        'Elsewhere;;https://else.example/;;',
        'Count;;/count;no;2027-03-01',
        'Twice;;/count;;',
        'Wrong date;;/wrong;;soon',
        ';;;;',
        'No address;;;;',
        'Bad;;mailto:x@y.example;;',
        'Year;;/year/:year(\\d{4});;',
      ].join('\r\n'),
    );
    const command = ['import', 'csv', 'pages', csv, '--file', file];
    const proposal = await json<queries.ExplainedProposal<proposals.CsvProposal>>(command);
    expect(proposal).toMatchObject({
      additions: [
        { name: '/about', value: 'About; us' },
        { name: '/count', value: { title: 'Count', listed: 'no', from: '2027-03-01' } },
        { name: '/year/:year(\\d{4})', value: 'Year' },
      ],
      known: 2,
      elsewhere: 1,
      unread: ['Remark'],
      written: false,
    });
    expect(proposal.refused.map(({ line, what }) => [line, what])).toEqual([
      [7, '/count'],
      [8, '/wrong'],
      [10, ''],
      [11, 'mailto:x@y.example'],
    ]);
    expect(proposal.refused[1]!.why).toContain('"soon" is not a date.');
    const { out } = await kleidon([...command, '--write']);
    expect(out).toContain('! line 8: /wrong "soon" is not a date.');
    expect(out).toContain('? the column "Remark" is not read');
    expect(readFileSync(file, 'utf8')).toBe(
      SITE.replace(
        '  /journal/:slug: Entry\n',
        () =>
          '  /journal/:slug: Entry\n  /about: About; us\n  /count: { title: Count, listed: no, from: 2027-03-01 }\n  /year/:year(\\d{4}): Year\n',
      ),
    );
  });

  test('visitors: roles, purchases with dates, and who has a role that is not there', async () => {
    const file = write('v.site.yaml', SITE);
    const input = [
      'name,roles,bought,full name',
      'gale,,,',
      'rhoda,ringer,,Rhoda of the ringers',
      'petra,,permit 2026-05-01..2027-05-01 | permit,',
      'lars,rinnger,,',
    ].join('\n');
    const command = ['import', 'csv', 'visitors', '-', '--file', file, '--write'];
    const { out } = await kleidon(command, { input });
    expect(out).toContain('! line 5: lars No role is called "rinnger". Did you mean "ringer"?');
    expect(readFileSync(file, 'utf8')).toBe(
      `${SITE}  rhoda: { title: Rhoda of the ringers, roles: [ ringer ] }\n  petra: { bought: [ { product: permit, from: 2026-05-01, until: 2027-05-01 }, { product: permit } ] }\n`,
    );
  });

  test.each([
    ['', ':1: The file is empty'],
    ['title\nx', ':1: No column is called address, path, url, page, link. The columns are: title.'],
    ['address,path\n/a,/b', ':1: Two columns are both the address.'],
    ['address\n"/a', 'This is not CSV'],
  ])('%j is refused with a reason', async (text, reason) => {
    const csv = write('bad.csv', text);
    const file = write('bad.site.yaml', SITE);
    const { code, err } = await kleidon(['import', 'csv', 'pages', csv, '--file', file]);
    expect([code, err]).toEqual([1, expect.stringContaining(reason)]);
  });
});

test('a site file that is not there yet is begun, and leaves what it does not name to the website', async () => {
  const map = write(
    'begun.xml',
    '<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"><url><loc>https://club.example/team</loc></url></urlset>',
  );
  const file = join(folder.path, 'begun.site.yaml');
  const command = ['import', 'sitemap', map, '--file', file];
  expect((await kleidon([...command, '--dry-run'])).code).toBe(0);
  expect(existsSync(file)).toBe(false);
  await kleidon([...command, '--write']);
  expect(readFileSync(file, 'utf8')).toBe(
    "kleidon: 1\nsite: { name: club.example, address: 'https://club.example', undeclared: website }\npages:\n  /team: Team\n",
  );
  const { out } = await kleidon(['visit', '/style.css', '--visitor', '{}', '--file', file]);
  expect(out).toContain('No page is declared here. The website decides what is there.');
  expect(out).toContain('reach: the website decides at /style.css');
});

describe('kleidon import crawl', () => {
  const servers: Server[] = [];
  afterAll(() => servers.forEach((server) => server.close()));
  async function serving(answer: RequestListener): Promise<string> {
    const server = createServer(answer).listen(0, '127.0.0.1');
    servers.push(server);
    await once(server, 'listening');
    return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  }
  const SITE = `kleidon: 1
site: { name: W, address: https://w.example }
pages:
  /: Home # kept
`;
  const html = (title: string, body: string, head = ''): string =>
    `<!doctype html><title>${title}</title>${head}${body}`;
  const MENU = `<nav aria-label="Main menu"><a href="/">Home</a> <a href="/a">A</a> <a href="/files/map.pdf">Map</a></nav>`;
  const TREE: Record<string, string> = {
    '/': html('Start', `${MENU}<a href="b?x=1#y">B</a><a href="https://else.example/">E</a>`),
    '/a': html('A &amp; more\n  of it', `${MENU}<a href="/gone">G</a><a href="/private/x">P</a>`),
    '/b': html(
      'B',
      `${MENU}<a href="/closed"></a><a href="mailto:x@y.example">M</a><a href="/deep/1">D</a>`,
    ),
    '/register': html('Register', '', '<meta name="robots" content="NOINDEX, nofollow">'),
    '/moved/to': html('Moved', '<a href="/only-here">x</a>', '<base href="/elsewhere/">'),
    '/deep/1': html('Deep 1', '<a href="/register">R</a><a href="/old">O</a><a href="2">next</a>'),
    '/deep/2': html('Deep 2', '<a href="3">next</a>'),
    '/deep/3': html('Deep 3', ''),
  };
  const asked: string[] = [];
  const tree: RequestListener = (request, response) => {
    const { pathname } = new URL(request.url!, 'http://x');
    asked.push(`${request.method} ${request.url}`);
    if (pathname === '/robots.txt') response.end('User-agent: *\nDisallow: /private/\n');
    else if (pathname === '/old') response.writeHead(301, { Location: '/moved/to' }).end();
    else if (pathname === '/closed') response.writeHead(403).end();
    else if (pathname.endsWith('.pdf'))
      response.setHeader('Content-Type', 'application/pdf').end('%PDF');
    else if (TREE[pathname]) response.setHeader('Content-Type', 'text/html').end(TREE[pathname]);
    else response.writeHead(404).end();
  };

  test('proposes pages, files and menus, keeps to the host and to robots.txt', async () => {
    const at = await serving(tree);
    const file = write('w.site.yaml', SITE);
    const command = ['import', 'crawl', `${at}/`, '--file', file, '--pause', '0'];
    asked.length = 0;
    const found = await json<
      proposals.Proposal & { broken: unknown; disallowed: number; endedBy: unknown }
    >(command);
    expect(found.additions).toEqual([
      { section: 'pages', name: '/a', value: 'A & more of it' },
      { section: 'pages', name: '/b', value: 'B' },
      { section: 'pages', name: '/closed', value: 'Closed' },
      { section: 'pages', name: '/deep/1', value: 'Deep 1' },
      { section: 'pages', name: '/deep/2', value: 'Deep 2' },
      { section: 'pages', name: '/deep/3', value: 'Deep 3' },
      { section: 'pages', name: '/files/map.pdf', value: { title: 'Map', kind: 'file' } },
      { section: 'pages', name: '/moved/to', value: 'Moved' },
      { section: 'pages', name: '/register', value: { title: 'Register', listed: 'no' } },
      { section: 'menus', name: 'main-menu', value: { links: ['/', '/a', '/files/map.pdf'] } },
    ]);
    expect(found).toMatchObject({ known: 1, disallowed: 1, endedBy: null });
    expect(found.broken).toEqual([
      { address: '/gone', answer: '404', linkedFrom: '/a' },
      { address: '/only-here', answer: '404', linkedFrom: '/moved/to' },
    ]);
    expect(asked.filter((one) => !one.startsWith('GET ') || one.includes('private'))).toEqual([]);
    expect(new Set(asked).size).toBe(asked.length);
    expect(readFileSync(file, 'utf8')).toBe(SITE);
    await kleidon([...command, '--write']);
    expect(readFileSync(file, 'utf8')).toContain('/: Home # kept\n  /a: A & more of it\n');
    expect((await kleidon(['check', '--file', file])).code).toBe(0);
    expect((await kleidon(command)).out).toContain('nothing to add; 10 already there');
  });

  test('takes marked menus by their names, leaves out links that no site has, and what all titles share', async () => {
    const menu =
      '<nav data-kleidon-menu="main" aria-label="Menu"><a href="/">H</a><a href="/a;b">S</a><a href="/a">A</a><a href="mailto:x@y.example">M</a></nav>';
    const titles: Record<string, string> = { '/': 'Home', '/a': 'A - more', '/a;b': 'S' };
    const at = await serving((request, response) => {
      const title = titles[request.url!];
      response.writeHead(title ? 200 : 404, { 'Content-Type': 'text/html' });
      response.end(`<title>${title} | Heron Club</title>${menu}`);
    });
    const file = join(folder.path, 'named.site.yaml');
    const command = ['import', 'crawl', `${at}/`, '--file', file, '--pause', '0', '--write'];
    const { code, out } = await kleidon(command);
    expect(code).toBe(1);
    expect(out).toContain('! /a;b The menu "main" is proposed without this link');
    expect(readFileSync(file, 'utf8')).toBe(
      `kleidon: 1\nsite: { name: Heron Club, address: '${at}', undeclared: website }\npages:\n  /: Home\n  /a: A - more\nmenus:\n  main: { links: [ /, /a ] }\n`,
    );
    const again = await kleidon(command);
    expect(again.out).not.toContain('menu main');
  });

  test.each([
    [['--max-pages', '2'], 'It ended at 2 pages; there may be more.'],
    [['--max-depth', '1'], 'It ended at a depth of 1 links; there may be more.'],
    [['--max-time', '1', '--pause', '600'], 'It ended at 1 seconds; there may be more.'],
  ])('%j bounds it', async (limits, said) => {
    const at = await serving(tree);
    const file = write('limits.site.yaml', SITE);
    const { out } = await kleidon([
      ...['import', 'crawl', `${at}/`, '--file', file, '--pause', '0'],
      ...limits,
    ]);
    expect(out).toContain(said);
  });

  test('a site that fails to say what may be read is left alone, and so is one that is not there', async () => {
    const at = await serving((_request, response) => response.writeHead(503).end());
    const file = write('r.site.yaml', SITE);
    const refused = await kleidon(['import', 'crawl', at, '--file', file]);
    expect([refused.code, refused.err]).toEqual([1, expect.stringContaining('answered 503')]);
    const nobody = await kleidon(['import', 'crawl', 'http://127.0.0.1:9/', '--file', file]);
    expect(nobody.code).toBe(3);
    const wrong = await kleidon(['import', 'crawl', 'w.example', '--file', file]);
    expect([wrong.code, wrong.err]).toEqual([2, '"w.example" is no http(s) address.\n']);
  });

  test('a real manual of over 1,000 pages becomes a site file that check accepts', async () => {
    const root = manual();
    const at = await serving((request, response) => {
      const { pathname } = new URL(request.url!, 'http://x');
      const path = join(root, pathname.endsWith('/') ? `${pathname}index.html` : pathname);
      if (!existsSync(path)) response.writeHead(404).end();
      else {
        if (extname(path) === '.html') response.setHeader('Content-Type', 'text/html');
        response.end(readFileSync(path));
      }
    });
    const file = write('manual.site.yaml', SITE);
    const command = ['import', 'crawl', `${at}/`, '--file', file, '--pause', '0', '--write'];
    expect((await kleidon(command)).code).toBe(0);
    const checked = await kleidon(['check', '--file', file]);
    expect([checked.code, checked.out]).toEqual([0, '0 errors, 0 findings\n']);
    const read = siteFiles.readSite(readFileSync(file, 'utf8'), file);
    const found = new Set(read.ok ? read.site.pages.map(({ address }) => address.slice(1)) : []);
    const there = readdirSync(root).filter((name) => name.endsWith('.html'));
    expect(there.length).toBeGreaterThan(1000);
    expect(there.filter((name) => !found.has(name) && !found.has(name.toLowerCase()))).toEqual([]);
  });
});

describe('the file that a command writes', () => {
  const SITE = 'kleidon: 1\nsite: { name: W, address: https://w.example }\npages: { /: Home }\n';
  const inFolder = (name: string): string => {
    mkdirSync(join(folder.path, name));
    return join(folder.path, name);
  };
  const importing = (csv: string, file: string) =>
    kleidon(['import', 'csv', 'pages', csv, '--file', file, '--write']);

  test('has what each command wrote that said so, however many write at once', async () => {
    const at = inFolder('at-once');
    const file = join(at, 'www.yaml');
    writeFileSync(file, SITE);
    const ended = await Promise.all(
      Array.from({ length: 6 }, async (_, i) => {
        const csv = join(at, `${i}.csv`);
        writeFileSync(csv, `address\n/page-${i}\n`);
        return importing(csv, file);
      }),
    );
    const text = readFileSync(file, 'utf8');
    ended.forEach(({ code, err }, i) => {
      expect(text.includes(`/page-${i}`)).toBe(code === 0);
      if (code !== 0)
        expect([code, err]).toEqual([1, expect.stringContaining('was changed since it was read')]);
    });
    expect(ended.some(({ code }) => code === 0)).toBe(true);
    expect(readdirSync(at).filter((name) => name.startsWith('.'))).toEqual([]);
  });

  test('keeps its mode and its link, and stays whole where it can not be written', async () => {
    const at = inFolder('kept');
    const [file, link] = [join(at, 'www.yaml'), join(at, 'link.yaml')];
    writeFileSync(file, SITE);
    chmodSync(file, 0o640);
    symlinkSync('www.yaml', link);
    const csv = join(at, 'pages.csv');
    writeFileSync(csv, 'address\n/one\n');
    expect((await importing(csv, link)).code).toBe(0);
    expect(lstatSync(link).isSymbolicLink()).toBe(true);
    expect(statSync(file).mode & 0o777).toBe(0o640);
    const before = readFileSync(file, 'utf8');
    expect(before).toContain('/one');
    writeFileSync(
      csv,
      `address\n${Array.from({ length: 500 }, (_, i) => `/more/${i}`).join('\n')}\n`,
    );
    // No file may grow beyond a block, as on a full disk.
    const full = spawnSync(
      'bash',
      [
        '-c',
        `trap '' XFSZ; ulimit -f 1; exec ${process.execPath} ${KLEIDON} import csv pages ${csv} --file ${file} --write`,
      ],
      { encoding: 'utf8' },
    );
    expect([full.status, full.stderr]).toEqual([2, expect.stringContaining("can't be written")]);
    expect(readFileSync(file, 'utf8')).toBe(before);
    expect(readdirSync(at).filter((name) => name.startsWith('.'))).toEqual([]);
  });

  test('is never standard input, nor in a folder that is not there', async () => {
    const csv = write('in.csv', 'address\n/one\n');
    const piped = await kleidon(['import', 'csv', 'pages', csv, '--file', '-', '--write'], {
      input: SITE,
    });
    expect([piped.code, existsSync('-')]).toEqual([2, false]);
    const file = write('out.yaml', SITE);
    const missing = await kleidon(['check', '--file', file, '--junit', '/nowhere/at/all.xml']);
    expect([missing.code, missing.err]).toEqual([
      2,
      expect.stringMatching(/^The file \/nowhere\/at\/all.xml can't be written: ENOENT/),
    ]);
  });
});

describe('what is not in UTF-8', () => {
  test.each([
    ['a site file', (bytes: Buffer) => ['check', '--file', write('l.yaml', bytes)]],
    [
      'a spreadsheet',
      (bytes: Buffer) => [
        'import',
        'csv',
        'pages',
        write('l.csv', bytes),
        '--file',
        write('u.yaml', 'kleidon: 1\n'),
      ],
    ],
  ])('%s is refused with the place', async (_, command) => {
    const { code, err } = await kleidon(command(Buffer.from('address\n/caf\xe9\n', 'latin1')));
    expect(code).toBe(2);
    expect(err).toMatch(/l\.\w+:2:5: The file is not in UTF-8/);
  });

  test('a list beside a site file is refused, as is one that a link has elsewhere, and a folder', async () => {
    const at = join(folder.path, 'lists');
    mkdirSync(at);
    const file = join(at, 'www.yaml');
    writeFileSync(
      file,
      'kleidon: 1\nsite: { name: W, address: https://w.example }\npages: { /: Home }\nredirect-lists: [old.csv]\n',
    );
    writeFileSync(join(at, 'old.csv'), Buffer.from('from,to\n/caf\xe9,/\n', 'latin1'));
    const check = () => kleidon(['check', '--file', file]);
    expect((await check()).err).toContain('old.csv:2:5: The file is not in UTF-8');
    writeFileSync(join(folder.path, 'secret'), 'root:secret\n');
    spawnSync('ln', ['-sf', '../secret', join(at, 'old.csv')]);
    const linked = await check();
    expect(linked.err).toContain('a link that leaves its folder');
    expect(linked.err).not.toContain('root:secret');
    spawnSync('rm', [join(at, 'old.csv')]);
    mkdirSync(join(at, 'old.csv'));
    expect((await check()).err).toContain("can't be read");
  });

  test('a sitemap is read in the encoding that it declares', async () => {
    const xml = (encoding: string) =>
      Buffer.from(
        `<?xml version="1.0" encoding="${encoding}"?><urlset><url><loc>https://w.example/caf\xe9</loc></url></urlset>`,
        'latin1',
      );
    const file = write(
      's.yaml',
      'kleidon: 1\nsite: { name: W, address: https://w.example }\npages: { /: Home }\n',
    );
    const read = (encoding: string) =>
      kleidon(['import', 'sitemap', write('s.xml', xml(encoding)), '--file', file]);
    expect((await read('ISO-8859-1')).out).toContain('Café');
    expect(await read('UTF-8')).toMatchObject({ code: 2 });
    expect((await read('no-such')).err).toContain('the encoding that it declares');
    const cut = await kleidon([
      'import',
      'sitemap',
      write('s.gz', gzipSync(xml('UTF-8')).subarray(0, 30)),
      '--file',
      file,
    ]);
    expect(cut.err).toContain("can't be unpacked");
  });
});
