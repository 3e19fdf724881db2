import { readFileSync, readdirSync, writeFileSync } from 'node:fs';
import type { RequestListener, Server } from 'node:http';
import { join } from 'node:path';
import { XMLParser } from 'fast-xml-parser';
import { decisions, model, siteFiles } from '@kleidon/core';
import { passing, sampleSite, serve, type SampleSite } from '../../service/test/sample.ts';
import { SAMPLE, temporaryFolder } from '../../service/test/running.ts';
import { json, kleidon } from './cli.ts';
import { manual } from './manual.ts';

interface Probed {
  readonly agreed: number;
  readonly differed: number;
  readonly untried: readonly { readonly visitor: string; readonly because: string }[];
  readonly visits: readonly decisions.ComparedVisit[];
}

const folder = temporaryFolder();
afterAll(() => folder.remove());
const file = (name: string, text: string): string => {
  const path = join(folder.path, name);
  writeFileSync(path, text);
  return path;
};

const RULES = `kleidon: 1
site: { name: Own, address: https://own.example, sign-in: /sign-in }
roles: { crew: x }
pages:
  /: Home
  /sign-in: Sign in
  /open: Open
  /crew: Crew
  /crew/deep: Deep
  /secret: Secret
  /old-page: { title: Old, until: 2020-01-01 }
  /out: { title: Out, leads-to: https://other.example/x }
  /round: Round
  /wait: Wait
gates:
  crew: { under: /crew, admit: role crew }
  secret: { at: /secret, admit: role crew, otherwise: [{ do: hide }] }
  round: { at: /round, admit: nobody, otherwise: [{ do: send, to: /round }] }
redirects:
  - { from: /open, to: /, kind: permanent }
  - { from: /wait, to: /, wait: 3s, say: Wait }
visitors: { gale: { guest: yes }, kim: { roles: [crew] } }
`;

describe('a website that keeps the rules by itself', () => {
  const read = siteFiles.readSite(RULES, 'own.site.yaml', () => null);
  if (!read.ok) throw new Error(JSON.stringify(read.errors));
  const prepared = decisions.prepareSite(read.site);
  const kim = prepared.site.visitors.find(({ name }) => name === 'kim')!;
  const asked: { method: string; host: string; url: string }[] = [];
  let fault: RequestListener | null = null;
  let website: { server: Server; at: string };
  let site: string;
  let known: string;

  beforeAll(async () => {
    site = file('own.site.yaml', RULES);
    known = file('known.yaml', 'kim: { headers: { X-Who: kim }, cookies: { who: kim } }\n');
    website = await serve((request, response) => {
      asked.push({ method: request.method!, host: request.headers.host!, url: request.url! });
      const before = response.writableEnded;
      fault?.(request, response);
      if (response.writableEnded !== before || response.destroyed) return;
      const isKim =
        request.headers['x-who'] === 'kim' && request.headers.cookie?.includes('who=kim');
      const visitor = isKim ? kim : model.GUEST;
      const asks = { method: 'GET', address: request.url! };
      const { status, location, headers } = decisions.decide(prepared, asks, visitor, Date.now());
      const isWait = headers['Refresh'] !== undefined;
      response.writeHead(status, {
        ...headers,
        ...(location === null || isWait ? {} : { Location: location }),
      });
      response.end('x');
    });
  });
  afterAll(() => website.server.close());
  beforeEach(() => {
    asked.length = 0;
    fault = null;
  });

  const probe = (...more: string[]): Promise<Probed> =>
    json<Probed>(['probe', website.at, '--file', site, '--sign-in', known, ...more]);

  test('agrees in every cell, is asked with GET alone, and no other host is asked', async () => {
    const probed = await probe();
    expect(probed.visits.filter(({ difference }) => difference)).toEqual([]);
    expect([probed.agreed, probed.differed, probed.untried]).toEqual([20, 0, []]);
    expect(new Set(probed.visits.map(({ outcome }) => outcome))).toEqual(
      new Set(['reach', 'sign-in', 'missing', 'away', 'loop']),
    );
    const { host } = new URL(website.at);
    expect(new Set(asked.map((one) => `${one.method} ${one.host}`))).toEqual(
      new Set([`GET ${host}`]),
    );
    expect((await kleidon(['probe', website.at, '--file', site, '--sign-in', known])).code).toBe(0);
  });

  test('asks for what rules lead to, where the website decides what is there', async () => {
    const leading = RULES.replace(', sign-in:', ', undeclared: website, sign-in:')
      .replace('to: /, kind', 'to: /opne?x, kind')
      .replace('to: /, wait', 'to: /crew/lost, wait');
    const options = ['--file', file('leading.site.yaml', leading), '--sign-in', known];
    fault = (request, response) => {
      if (/opne|lost/.test(request.url!)) response.writeHead(404).end();
    };
    const { visits } = await json<Probed>(['probe', website.at, ...options, '--as', 'kim']);
    const differing = visits.filter(({ difference }) => difference?.found === '404');
    expect(differing.map(({ address }) => address)).toEqual(['/opne', '/crew/lost']);
    asked.length = 0;
    await json<Probed>(['probe', website.at, ...options, '--as', 'kim', '--under', '/crew']);
    expect(asked.map(({ url }) => url)).not.toContain('/opne');
  });

  const answer =
    (path: string, status: number, headers: Record<string, string> = {}): RequestListener =>
    (request, response) => {
      if (request.url === path) response.writeHead(status, headers).end();
    };

  test.each<[string, RequestListener, string, string, string]>([
    [
      'a closed page that is open to all',
      answer('/crew/deep', 200),
      '/crew/deep gale',
      'opens',
      '303 to /sign-in?return=%2Fcrew%2Fdeep',
    ],
    [
      'a hidden page that is told of',
      answer('/secret', 403),
      '/secret gale, /secret kim',
      'other',
      '404',
    ],
    [
      'a page that its people do not see',
      (request, response) => {
        if (request.url === '/crew' && request.headers['x-who']) response.writeHead(403).end();
      },
      '/crew kim',
      'closes',
      '200',
    ],
    [
      'a redirect to the wrong page',
      answer('/open', 301, { Location: '/sign-in' }),
      '/open gale, /open kim',
      'other',
      '301 to /',
    ],
    [
      'one for now that should be for good',
      answer('/open', 302, { Location: '/' }),
      '/open gale, /open kim',
      'other',
      '301 to /',
    ],
    [
      'what is gone is still there',
      answer('/old-page', 200),
      '/old-page gale, /old-page kim',
      'opens',
      '404',
    ],
    [
      'a page that leads out of the site',
      answer('/', 302, { Location: 'https://evil.example/' }),
      '/ gale, /open gale, /wait gale, / kim, /open kim, /wait kim',
      'closes',
      '200',
    ],
    [
      'a connection that breaks off',
      (request, response) => {
        if (request.url!.startsWith('/sign-in')) response.destroy();
      },
      '/crew gale, /crew/deep gale, /sign-in gale, /sign-in kim',
      'other',
      '200',
    ],
  ])('%s is found', async (_, put, cells, effect, expected) => {
    fault = put;
    const probed = await probe();
    const different = probed.visits.filter(({ difference }) => difference !== null);
    expect(different.map(({ address, visitor }) => `${address} ${visitor}`).join(', ')).toBe(cells);
    expect(different[0]!.difference).toMatchObject({ effect, expected });
    expect(asked.every(({ host }) => host === new URL(website.at).host)).toBe(true);
  });

  test('a difference is told in words, exits with 1, and stands in the JUnit report', async () => {
    fault = answer('/crew/deep', 200);
    const report = join(folder.path, 'probe.xml');
    const ended = await kleidon([
      'probe',
      website.at,
      '--file',
      site,
      '--sign-in',
      known,
      '--junit',
      report,
    ]);
    expect([ended.code, ended.err]).toEqual([1, '']);
    expect(ended.out).toContain('✗ /crew/deep as gale: sees what is not for them');
    expect(ended.out).toContain('  the rules say  303 to /sign-in?return=%2Fcrew%2Fdeep\n');
    expect(ended.out).toContain('  it answered    200');
    expect(ended.out).toContain('1 visit of 20 not as the rules say.');
    const { testsuites } = new XMLParser({ ignoreAttributes: false }).parse(
      readFileSync(report, 'utf8'),
    ) as { testsuites: Record<string, unknown> & { testsuite: Record<string, string>[] } };
    expect([testsuites['@_tests'], testsuites['@_failures']]).toEqual(['20', '1']);
    expect(testsuites.testsuite.map((one) => [one['@_name'], one['@_failures']])).toEqual([
      ['gale', '1'],
      ['kim', '0'],
    ]);
  });

  test('whoever can not be tried is told, and the others are', async () => {
    const probed = await json<Probed>(['probe', website.at, '--file', site]);
    expect(probed.agreed).toBe(10);
    expect(probed.untried).toEqual([
      { visitor: 'kim', because: expect.stringContaining('--sign-in') as string, failed: false },
    ]);
    const report = join(folder.path, 'untried.xml');
    await kleidon(['probe', website.at, '--file', site, '--junit', report]);
    expect(readFileSync(report, 'utf8')).toContain('<skipped message="nothing says how');
  });

  test('where nothing could be tried, or signing in failed, it is not well', async () => {
    const none = await kleidon(['probe', website.at, '--file', site, '--as', 'kim']);
    expect([none.code, none.out]).toEqual([1, expect.stringContaining('Nothing could be tried.')]);
    const empty = await kleidon(['probe', website.at, '--file', site, '--under', '/none']);
    expect(empty.code).toBe(1);
    // This website has no gateway that one could sign in at.
    const report = join(folder.path, 'failed.xml');
    const failed = await kleidon([
      ...['probe', website.at, '--file', site, '--identity', 'http://127.0.0.1:1'],
      ...['--junit', report],
    ]);
    expect(failed.code).toBe(1);
    expect(failed.out).toMatch(/! kim was not tried: signing in did not work: .* answered 4\d\d\./);
    expect(failed.out).toContain('10 visits: all as the rules say.');
    expect(readFileSync(report, 'utf8')).toContain('<failure message="signing in did not work');
  });

  test('a website that asks for patience is asked again then', async () => {
    let times = 0;
    fault = (request, response) => {
      if (request.url === '/' && times++ === 0)
        response.writeHead(503, { 'Retry-After': '0' }).end();
    };
    expect((await probe('--under', '/crew', '--as', 'kim')).agreed).toBe(2);
    expect((await probe('--as', 'kim')).differed).toBe(0);
    expect(times).toBeGreaterThan(1);
  });

  test.each([
    [['--limit', '5'], 'These are 20 visits, and 5 may be made.'],
    [['--as', 'nobody'], 'nobody'],
    [['--under', 'crew'], 'crew'],
  ])('%j is refused', async (more, message) => {
    const ended = await kleidon(['probe', website.at, '--file', site, ...more]);
    expect([ended.code, ended.out]).toEqual([2, '']);
    expect(ended.err).toContain(message);
    expect(asked).toEqual([]);
  });

  test.each([
    ['kim: { cookie: { a: b } }', '"cookie" is neither "cookies" nor "headers".'],
    ['kim: { headers: { A: 1 } }', 'kim'],
    ['- kim', 'This is no list of visitors.'],
    ['kim: {', 'broken.yaml'],
  ])('credentials %j are refused', async (text, message) => {
    const broken = file('broken.yaml', text);
    const ended = await kleidon(['probe', website.at, '--file', site, '--sign-in', broken]);
    expect([ended.code, ended.out]).toEqual([2, '']);
    expect(ended.err).toContain(message);
  });

  test('an address with a path, or none at all, is no website', async () => {
    for (const url of ['own.example', `${website.at}/crew`, 'ftp://own.example']) {
      const ended = await kleidon(['probe', url, '--file', site]);
      expect([ended.code, ended.err]).toEqual([2, expect.stringContaining('is no website')]);
    }
  });
});

describe('the sample site behind the gateway', () => {
  let sample: SampleSite;
  const home = temporaryFolder();
  let fault: RequestListener | null = null;
  let between: { server: Server; at: string };

  beforeAll(async () => {
    // Between the gateway and the website, so that faults can be put into it.
    between = await passing(
      () => sample.website.address,
      () => fault,
    );
    sample = await sampleSite(home.path, { origin: between.at });
  });
  afterAll(async () => {
    await sample.end();
    between.server.close();
    home.remove();
  });
  beforeEach(() => (fault = null));

  const probe = (...more: string[]): Promise<Probed> =>
    json<Probed>(['probe', sample.gateway, '--service', sample.service().address, ...more]);

  test('agrees with the grid in every cell, for all ten visitors', async () => {
    const probed = await probe();
    expect(probed.visits.filter(({ difference }) => difference)).toEqual([]);
    expect([probed.agreed, probed.untried]).toEqual([520, []]);
    expect(new Set(probed.visits.map(({ outcome }) => outcome))).toEqual(
      new Set(['reach', 'sign-in', 'block', 'missing', 'away', 'loop']),
    );
  });

  test('finds each of five faults of the website, and nothing else', async () => {
    const faults: Record<string, RequestListener> = {
      '/about': (_, response) => response.writeHead(404).end(),
      '/crew/hide-keys': (_, response) => response.writeHead(500).end(),
      '/members/photos': (_, response) => response.writeHead(302, { Location: '/login' }).end(),
      '/shop/field-guide': (_, response) => response.destroy(),
      '/song-course': (_, response) => response.writeHead(204).end(),
    };
    fault = (request, response) => faults[request.url!]?.(request, response);
    const probed = await probe('--as', 'vik');
    const different = probed.visits.flatMap(({ address, difference }) =>
      difference ? [[address, difference.found, difference.effect]] : [],
    );
    expect(different).toEqual([
      ['/about', '404', 'closes'],
      ['/crew/hide-keys', '500', 'closes'],
      ['/members/photos', '302 to /login', 'closes'],
      ['/shop/field-guide', '502', 'closes'],
      ['/song-course', '204', 'other'],
    ]);
  });

  test('the website without its gateway is open to everyone, and that is told', async () => {
    const probed = await json<Probed>([
      'probe',
      sample.website.address,
      '--file',
      SAMPLE,
      '--as',
      'gale',
      '--under',
      '/trustees',
    ]);
    expect(probed.visits.map(({ difference }) => difference?.effect)).toEqual([
      'opens',
      'opens',
      'opens',
    ]);
  });

  test('a release after the gateway was probed is probed too', async () => {
    const { address } = sample.service();
    const at = `${address}/api/sites/merrow-point`;
    const text = readFileSync(SAMPLE, 'utf8').replace(
      'members-area:\n    under: /members',
      'members-area:\n    under: [/members, /about]',
    );
    await fetch(`${at}/draft`, {
      method: 'PUT',
      headers: { 'Content-Type': 'application/yaml', 'If-Match': '"1"' },
      body: text,
    });
    // Not released: the gateway goes by what is live, and so does the probe unless it is told otherwise.
    const narrow = ['--as', 'gale', '--under', '/about'];
    expect((await probe(...narrow)).differed).toBe(0);
    expect((await probe(...narrow, '--state', 'draft')).visits[0]!.difference).toMatchObject({
      expected: '303 to /sign-in?return=%2Fabout',
      found: '200',
      effect: 'opens',
    });
  });
});

describe('a real manual of over a thousand pages', () => {
  test('agrees in every cell, behind the gateway and without it', async () => {
    const root = manual();
    const names = readdirSync(root).filter((name) => name.endsWith('.html'));
    expect(names.length).toBeGreaterThan(1000);
    const home = temporaryFolder();
    const files = await serve((request, response) => {
      const name = /^\/([^?]+)/.exec(request.url!)?.[1] ?? 'index.html';
      const there = names.includes(name);
      response.writeHead(there ? 200 : 404, { 'Content-Type': 'text/html' });
      response.end(there ? readFileSync(join(root, name)) : 'none');
    });
    const rules = file(
      'manual.site.yaml',
      `kleidon: 1
site: { name: Manual, address: https://manual.example, sign-in: /index.html }
roles: { reader: Reads on }
pages:
${names.map((name) => `  ${JSON.stringify(`/${name}`)}: ${JSON.stringify(name)}`).join('\n')}
  /lost.html: { title: Lost, until: 2020-01-01 }
gates:
  commands: { at: '/sql-:name.html', admit: role reader }
  release-notes: { at: '/release-:name.html', admit: role reader, otherwise: [{ do: hide }] }
redirects:
  - { from: /intro.html, to: /index.html }
visitors:
  gale: { guest: yes }
  rea: { roles: [reader] }
`,
    );
    const site = await sampleSite(home.path, { file: rules, origin: files.at });
    try {
      const probed = await json<Probed>([
        'probe',
        site.gateway,
        '--service',
        site.service().address,
      ]);
      expect(probed.visits.filter(({ difference }) => difference)).toEqual([]);
      expect(probed.agreed).toBe(2 * (names.length + 1));
      // The bare files know nothing of the rules: that is found, page by page.
      const bare = await json<Probed>(['probe', files.at, '--file', rules, '--as', 'gale']);
      const closed = names.filter((name) => /^(sql|release)-/.test(name));
      const opened = bare.visits.filter(({ difference }) => difference?.effect === 'opens');
      expect(opened).toHaveLength(closed.length);
    } finally {
      await site.end();
      files.server.close();
      home.remove();
    }
  }, 180_000);
});
