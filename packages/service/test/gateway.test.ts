import { once } from 'node:events';
import { writeFileSync } from 'node:fs';
import { createServer, request as ask, type IncomingMessage, type Server } from 'node:http';
import { connect, type AddressInfo, type Socket } from 'node:net';
import { join } from 'node:path';
import { PassThrough } from 'node:stream';
import {
  createLocalJWKSet,
  exportJWK,
  generateKeyPair,
  jwtVerify,
  SignJWT,
  type CryptoKey,
  type JSONWebKeySet,
} from 'jose';
import { kleidon } from '../../cli/test/cli.ts';
import { turnsWithin } from '../src/gateway/origin/limits.ts';
import { originAt, type OriginProblem } from '../src/gateway/origin/origin.ts';
import { paceFor } from '../src/gateway/origin/pace.ts';
import { call, called, operations } from './described.ts';
import { run, temporaryFolder, type Running } from './running.ts';
import { HANDSHAKE, printed, switching } from './web-sockets.ts';

const SITE = `kleidon: 1
site: { name: Gate, address: https://gate.example, also: [https://www.gate.example], sign-in: /sign-in, tidy: { endings: [.html] } }
roles: { crew: x }
pages:
  /: Home
  /sign-in: Sign in
  /crew: Crew
  /crew/deep: { title: Deep, aliases: [/deep] }
  /open: Open
  /events: Events
  /echo: Echo
  /slow: Slow
  /lost: Lost
  /activity: Activity
  /nothing-here: { title: Nothing, listed: no }
  /big.bin: { kind: file }
  /lang: Lang
gates:
  crew: { under: /crew, admit: role crew }
  hidden: { at: /hidden, admit: role crew, otherwise: [{ do: hide }] }
  words: { at: /words, admit: nobody, otherwise: [{ do: refuse, say: "Not <b>you</b>" }] }
redirects:
  - { from: /old, to: /open, kind: permanent }
  - { from: /later, to: /open, wait: 5s, say: Soon }
  - { from: https://www.gate.example/promo, to: /open }
rewrites: [{ from: '/people/:name', serve: '/activity?person=:name', canonical: yes }]
not-found: [{ under: /, show: /nothing-here }, { under: /gone, say: 'No {rest.1}', status: 410 }]
`;

/** An ordinary website that knows nothing of access, and tells what it was asked. */
function website(): Server {
  return createServer((request, response) => {
    const path = request.url!.split('?')[0]!;
    if (path === '/lost') return void response.writeHead(404).end('origin 404');
    if (path === '/slow') return;
    if (path === '/events') {
      response.writeHead(200, { 'Content-Type': 'text/event-stream', 'Cache-Control': 'public' });
      response.write('data: one\n\n');
      request.on('close', () => response.end());
      return;
    }
    if (path === '/big.bin') {
      const range = /bytes=(\d+)-(\d+)/.exec(request.headers.range ?? '');
      response.writeHead(range ? 206 : 200, {
        'Accept-Ranges': 'bytes',
        Connection: 'X-Secret',
        'X-Secret': 'of one connection',
        'Set-Cookie': ['a=1', 'b=2'],
      });
      response.end(Buffer.alloc(range ? Number(range[2]) - Number(range[1]) + 1 : 1000, 'x'));
      return;
    }
    let body = '';
    request.on('data', (chunk: Buffer) => (body += chunk.toString()));
    request.on('end', () => {
      response.setHeader('Content-Type', 'application/json');
      const { method, url, headers, rawHeaders } = request;
      response.end(JSON.stringify({ method, url, headers, rawHeaders, body }));
    });
  }).on('upgrade', (request: IncomingMessage, socket: Socket) => {
    // The gateway may cut it off at any moment.
    socket.on('error', () => undefined);
    socket.write(switching(request.headers['sec-websocket-key']!));
    socket.write(`${request.url} `);
    socket.pipe(socket);
  });
}

interface Told {
  readonly method: string;
  readonly url: string;
  readonly headers: Record<string, string | undefined>;
  readonly body: string;
}

describe('the gateway', () => {
  const folder = temporaryFolder();
  const origin = website();
  let service: Running;
  let key: CryptoKey;
  let version = 1;

  const get = (path: string, init: RequestInit = {}): Promise<Response> =>
    fetch(service.gateway + path, { redirect: 'manual', ...init });
  const told = async (path: string, init?: RequestInit): Promise<Told> =>
    (await (await get(path, init)).json()) as Told;
  const tokenFor = (sub: string, roles: string[], expires = '5m'): Promise<string> =>
    new SignJWT({ sub, roles })
      .setProtectedHeader({ alg: 'EdDSA' })
      .setIssuer('login')
      .setExpirationTime(expires)
      .sign(key);
  const asCrew = async (): Promise<RequestInit> => ({
    headers: { Cookie: `x=1; login=${await tokenFor('vik', ['crew'])}` },
  });
  /** Sends bytes as they are, and gives all that comes back until the connection is closed. */
  const raw = async (bytes: string): Promise<string> => {
    const { hostname, port } = new URL(service.gateway);
    const socket = connect(Number(port), hostname);
    let answer = '';
    // Whoever is refused with bytes unread may see the connection reset.
    socket.on('error', () => undefined);
    socket.on('data', (chunk) => (answer += chunk.toString('latin1')));
    socket.write(bytes.replaceAll('HOST', new URL(service.gateway).host));
    await once(socket, 'close');
    return answer;
  };
  const release = async (text: string): Promise<void> => {
    const at = `${service.address}/api/sites/gate`;
    const put = await fetch(`${at}/draft`, {
      method: 'PUT',
      headers: { 'Content-Type': 'application/yaml', 'If-Match': `"${version}"` },
      body: text,
    });
    ({ version } = (await put.json()) as { version: number });
    const made = await fetch(`${at}/releases`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', 'If-Match': `"${version}"` },
      body: '{"note":"x"}',
    });
    expect(made.status).toBe(201);
  };

  beforeAll(async () => {
    origin.listen(0, '127.0.0.1');
    await once(origin, 'listening');
    const pair = await generateKeyPair('EdDSA', { extractable: true });
    key = pair.privateKey;
    const keys = join(folder.path, 'keys.json');
    writeFileSync(keys, JSON.stringify({ keys: [await exportJWK(pair.publicKey)] }));
    const settings = join(folder.path, 'settings.yaml');
    writeFileSync(
      settings,
      `gateways:
  - site: gate
    port: 0
    origin: http://127.0.0.1:${(origin.address() as AddressInfo).port}
    origin-timeout: 1
    token: { cookie: login, keys: ${keys}, issuer: login }
`,
    );
    service = await run(join(folder.path, 'data'), '--settings', settings);
    expect((await get('/')).status).toBe(503);
    await fetch(`${service.address}/api/sites?id=gate`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/yaml' },
      body: SITE,
    });
    await release(SITE);
  });
  afterAll(async () => {
    await service.end();
    origin.closeAllConnections();
    origin.close();
    folder.remove();
  });

  test.each([
    ['/open', 200, null],
    ['/old', 301, '/open'],
    ['/Open.html', 301, '/open'],
    ['/deep', 301, '/crew/deep'],
    ['/crew', 303, '/sign-in?return=%2Fcrew'],
    ['/crew/deep', 303, '/sign-in?return=%2Fcrew%2Fdeep'],
    ['/hidden', 404, null],
    ['/gone/x%3Cb%3E', 410, null],
    ['/words', 403, null],
    ['/crew%2Fdeep', 400, null],
    ['/activity?person=kim', 301, '/people/kim'],
  ])('%s: %i %s, as the rules say', async (path, status, location) => {
    const answer = await get(path);
    expect([answer.status, answer.headers.get('Location')]).toEqual([status, location]);
  });

  test('whoever has a token of the website is let in as who they are, and nobody else', async () => {
    const inside = await get('/crew', await asCrew());
    expect([inside.status, inside.headers.get('Cache-Control')]).toEqual([
      200,
      'private, no-store',
    ]);
    const { privateKey } = await generateKeyPair('EdDSA');
    const forged = await new SignJWT({ sub: 'vik', roles: ['crew'], iss: 'login' })
      .setProtectedHeader({ alg: 'EdDSA' })
      .setExpirationTime('5m')
      .sign(privateKey);
    const none = `${btoa('{"alg":"none"}')}.${btoa('{"sub":"vik","roles":["crew"],"iss":"login","exp":9999999999}')}.`;
    for (const token of [forged, none, 'x', await tokenFor('vik', ['crew'], '-1m')]) {
      const answer = await get('/crew', { headers: { Cookie: `login=${token}` } });
      expect(answer.status).toBe(303);
    }
    const other = await get('/crew', { headers: { Cookie: `login=${await tokenFor('mia', [])}` } });
    expect(other.status).toBe(403);
    // Those that were not taken leave a trace, and nothing of themselves.
    const { gateway: told } = (await (
      await call(service.address, '/api/sites/gate/gateway')
    ).json()) as { gateway: { login: unknown } };
    expect(told.login).toMatchObject({
      by: 'login',
      rejected: 4,
      last: { reason: 'it has run out' },
    });
    expect(service.log()).toContain('"reason":"its signature is wrong"');
    expect(service.log()).toContain('\\"audience\\" is missing');
    expect(service.log()).not.toContain(forged.slice(-20));
  });

  test('the login of the website sends people to where they land', async () => {
    const landed = async (query: string, init?: RequestInit) =>
      (await get(`/.kleidon/landing${query}`, init)).headers.get('Location');
    expect(await landed('?return=/crew', await asCrew())).toBe('/crew');
    expect(await landed('?return=/crew')).toBe('/');
    expect(await landed('?return=//evil.example', await asCrew())).toBe('/');
    expect(await landed('', await asCrew())).toBe('/');
  });

  test('the website is told who it is, in a way that it can check', async () => {
    const keys = await call(service.address, '/api/gateway-keys');
    const { headers } = await told('/crew', await asCrew());
    const { payload } = await jwtVerify(
      headers['kleidon-visitor']!,
      createLocalJWKSet((await keys.json()) as JSONWebKeySet),
      { issuer: 'kleidon', audience: 'https://gate.example' },
    );
    expect(payload).toMatchObject({ sub: 'vik', roles: ['crew'], groups: [] });
    expect((await told('/crew', await asCrew())).headers['kleidon-visitor']).toBe(
      headers['kleidon-visitor'],
    );
    expect((await told('/open')).headers['kleidon-visitor']).toBeUndefined();
    expect(operations('gateway').filter((one) => !called.has(one))).toEqual([]);
  });

  test('pages of the website stand where the rules name one, with the right status; a 404 of its own too', async () => {
    for (const path of ['/no-such-page', '/lost']) {
      const answer = await get(path);
      expect([answer.status, ((await answer.json()) as Told).url]).toEqual([404, '/nothing-here']);
    }
    const words = await get('/words');
    expect(await words.text()).toContain('<p>Not &lt;b&gt;you&lt;/b&gt;</p>');
    expect(await (await get('/gone/x%3Cb%3E')).text()).toContain('<p>No x&lt;b&gt;</p>');
    const later = await get('/later');
    expect([later.status, later.headers.get('Refresh')]).toEqual([200, '5; url=/open']);
    expect(await later.text()).toContain('<a href="/open">Go there now</a>');
    const head = await get('/words', { method: 'HEAD' });
    expect([head.status, await head.text()]).toEqual([403, '']);
  });

  test('the website is asked in the form that was judged, and for what an address is served from', async () => {
    expect((await told('/people/kim?tab=1')).url).toBe('/activity?person=kim&tab=1');
    const dotted = await raw(
      'GET /crew/../open HTTP/1.1\r\nHost: HOST\r\nConnection: close\r\n\r\n',
    );
    expect(dotted).toMatch(/^HTTP\/1\.1 301 .*\r\nLocation: \/open\r\n/s);
    const escaped = await raw('GET /o%70en HTTP/1.1\r\nHost: HOST\r\nConnection: close\r\n\r\n');
    expect(escaped).toMatch(/^HTTP\/1\.1 301 .*\r\nLocation: \/open\r\n/s);
  });

  test('nothing that a client sends poses as the gateway', async () => {
    const { headers } = await told('/echo', {
      headers: {
        Forwarded: 'for=1.2.3.4',
        'X-Forwarded-For': '1.2.3.4',
        X_Forwarded_Host: 'evil.example',
        'X-Original-URL': '/crew',
        'X-HTTP-Method-Override': 'DELETE',
        'Kleidon-Visitor': 'admin',
        'X-Custom': 'stays',
      },
    });
    const { host } = new URL(service.gateway);
    expect(headers).toMatchObject({
      host: 'gate.example',
      forwarded: `for=127.0.0.1;host="${host}";proto=http;by=_kleidon`,
      'x-custom': 'stays',
    });
    expect(
      Object.keys(headers).filter((name) => /x.forwarded|original|method|kleidon/.test(name)),
    ).toEqual([]);
  });

  test('fields of one connection stay on it, and others come through unchanged', async () => {
    const answer = await get('/big.bin', { headers: { Range: 'bytes=10-19' } });
    expect([answer.status, (await answer.arrayBuffer()).byteLength]).toEqual([206, 10]);
    expect(answer.headers.get('X-Secret')).toBeNull();
    expect(answer.headers.getSetCookie()).toEqual(['a=1', 'b=2']);
  });

  test('large uploads go through as they come; one that is refused is not taken for the next request', async () => {
    const body = 'y'.repeat(3_000_000);
    expect((await told('/echo', { method: 'POST', body })).body).toHaveLength(body.length);
    const refused = await raw(
      'POST /words HTTP/1.1\r\nHost: HOST\r\nContent-Length: 70\r\n\r\nGET /open HTTP/1.1\r\nHost: HOST\r\n\r\n',
    );
    expect(refused.match(/HTTP\/1\.1 \d+/g)).toEqual(['HTTP/1.1 403']);
  });

  test('server-sent events come one by one', async () => {
    const gone = new AbortController();
    const answer = await get('/events', { signal: gone.signal });
    const { value } = await answer.body!.getReader().read();
    expect(new TextDecoder().decode(value)).toBe('data: one\n\n');
    gone.abort();
  });

  test('a connection that changes its protocol is passed on where the rules let it through', async () => {
    const { hostname, port } = new URL(service.gateway);
    const upgrade = (path: string): ReturnType<typeof ask> =>
      ask({ hostname, port, path, headers: HANDSHAKE }).end();
    const [, socket, head] = (await once(upgrade('/echo?x=1'), 'upgrade')) as [
      unknown,
      Socket,
      Buffer,
    ];
    let said = head.toString();
    socket.on('data', (chunk: Buffer) => (said += chunk.toString()));
    socket.write('hello');
    while (said.length < 15) await once(socket, 'data');
    expect(said).toBe('/echo?x=1 hello');
    socket.destroy();
    const [refused] = (await once(upgrade('/crew'), 'response')) as [IncomingMessage];
    expect(refused.statusCode).toBe(303);
    refused.destroy();
  });

  test('whoever goes away leaves nothing behind, and does no harm', async () => {
    const { hostname, port } = new URL(service.gateway);
    const leave = async (bytes: string): Promise<void> => {
      const socket = connect(Number(port), hostname);
      await once(socket, 'connect');
      socket.write(bytes.replace('HOST', `${hostname}:${port}`));
      await once(origin, bytes.includes('Upgrade') ? 'upgrade' : 'request');
      socket.resetAndDestroy();
    };
    // Someone who stays asked before: the one who left is let go of before that one is told 504.
    const asked = once(origin, 'request');
    const stays = get('/slow');
    await asked;
    const dropped = new Promise((resolve) =>
      origin.once('request', (request: IncomingMessage) => request.socket.once('close', resolve)),
    );
    await leave('GET /slow HTTP/1.1\r\nHost: HOST\r\n\r\n');
    const first = await Promise.race([dropped.then(() => 'let go'), stays.then(() => '504')]);
    expect([first, (await stays).status]).toEqual(['let go', 504]);
    await leave('GET /events HTTP/1.1\r\nHost: HOST\r\n\r\n');
    await leave('POST /echo HTTP/1.1\r\nHost: HOST\r\nContent-Length: 900\r\n\r\nsome');
    await leave(`GET /echo HTTP/1.1\r\nHost: HOST\r\n${printed(HANDSHAKE)}\r\n`);
    for (let i = 0; i < 20; i++) {
      const socket = connect(Number(port), hostname);
      await once(socket, 'connect');
      socket.write(`GET /crew HTTP/1.1\r\nHost: ${hostname}:${port}\r\n${printed(HANDSHAKE)}\r\n`);
      socket.resetAndDestroy();
    }
    expect((await get('/open')).status).toBe(200);
    expect(service.process.exitCode).toBeNull();
  });

  test.each([
    ['two hosts', 'GET /open HTTP/1.1\r\nHost: HOST\r\nHost: evil.example\r\n\r\n', 400],
    ['no host', 'GET /open HTTP/1.1\r\n\r\n', 400],
    ['another host', 'GET /open HTTP/1.1\r\nHost: evil.example\r\n\r\n', 421],
    ['a target for another host', 'GET http://evil.example/ HTTP/1.1\r\nHost: HOST\r\n\r\n', 400],
    [
      'an absolute target',
      'GET http://HOST/crew HTTP/1.1\r\nHost: HOST\r\nConnection: close\r\n\r\n',
      303,
    ],
    ['the asterisk', 'OPTIONS * HTTP/1.1\r\nHost: HOST\r\n\r\n', 400],
    ['CONNECT', 'CONNECT HOST HTTP/1.1\r\nHost: HOST\r\n\r\n', null],
    ['TRACE', 'TRACE /open HTTP/1.1\r\nHost: HOST\r\nConnection: close\r\n\r\n', 405],
    ['a method of its own', 'PURGE /crew HTTP/1.1\r\nHost: HOST\r\nConnection: close\r\n\r\n', 405],
    ['two slashes', 'GET //crew HTTP/1.1\r\nHost: HOST\r\nConnection: close\r\n\r\n', 400],
    ['a backslash', 'GET /open\\..\\crew HTTP/1.1\r\nHost: HOST\r\nConnection: close\r\n\r\n', 400],
    ['capitals', 'GET /CREW HTTP/1.1\r\nHost: HOST\r\nConnection: close\r\n\r\n', 301],
    ['a dot', 'GET /./crew HTTP/1.1\r\nHost: HOST\r\nConnection: close\r\n\r\n', 301],
    [
      'escaped dots',
      'GET /open/%2e%2e/crew HTTP/1.1\r\nHost: HOST\r\nConnection: close\r\n\r\n',
      301,
    ],
    ['an escaped letter', 'GET /cre%77 HTTP/1.1\r\nHost: HOST\r\nConnection: close\r\n\r\n', 301],
    ['NUL', 'GET /crew%00 HTTP/1.1\r\nHost: HOST\r\nConnection: close\r\n\r\n', 400],
    [
      'both lengths',
      'POST /open HTTP/1.1\r\nHost: HOST\r\nContent-Length: 6\r\nTransfer-Encoding: chunked\r\n\r\n0\r\n\r\nX',
      400,
    ],
    [
      'two lengths',
      'POST /open HTTP/1.1\r\nHost: HOST\r\nContent-Length: 1\r\nContent-Length: 2\r\n\r\nX',
      400,
    ],
    [
      'an odd coding',
      'POST /open HTTP/1.1\r\nHost: HOST\r\nTransfer-Encoding: xchunked\r\n\r\n0\r\n\r\n',
      400,
    ],
    [
      'a folded field',
      'GET /open HTTP/1.1\r\nHost: HOST\r\nX: a\r\n b\r\nConnection: close\r\n\r\n',
      400,
    ],
    [
      'fields without end',
      `GET /open HTTP/1.1\r\nHost: HOST\r\nX: ${'a'.repeat(20_000)}\r\n\r\n`,
      431,
    ],
  ])('%s: no way round a gate', async (_, bytes, status) => {
    const answer = await raw(bytes);
    expect(answer).not.toContain('"url":"/crew');
    const first = /^HTTP\/1\.1 (\d+)/.exec(answer)?.[1];
    expect(first === undefined ? null : Number(first)).toBe(status);
  });

  test('a website that is slow or gone is said to be so, and is there again when it is', async () => {
    expect((await get('/slow')).status).toBe(504);
    const { port } = origin.address() as AddressInfo;
    origin.closeAllConnections();
    await new Promise((resolve) => origin.close(resolve));
    expect((await get('/open')).status).toBe(502);
    expect(await (await get('/open')).text()).toContain('does not answer');
    // What the rules answer by themselves needs no website.
    expect((await get('/old')).status).toBe(301);
    origin.listen(port, '127.0.0.1');
    await once(origin, 'listening');
    expect((await get('/open')).status).toBe(200);
  });

  test('a connection that the website closed in the moment of its use is not the visitor’s trouble', async () => {
    let times = 0;
    const fickle = createServer((request, response) => {
      times++;
      // Answers once on each connection, and closes it with the next request.
      if (answered.has(request.socket)) request.socket.destroy();
      else {
        answered.add(request.socket);
        response.end('here');
      }
    }).listen(0, '127.0.0.1');
    const answered = new WeakSet<object>();
    await once(fickle, 'listening');
    const limits = { connections: 9, connectionsPerClient: 9, streams: 9, streamsPerClient: 9 };
    const turns = turnsWithin({ ...limits, queueTimeout: 1000, minimumRate: 1 });
    const pace = paceFor(1, () => false);
    const at = originAt(`http://127.0.0.1:${(fickle.address() as AddressInfo).port}`, {
      originTimeout: 3000,
      turns,
      pace,
    });
    const ask = async (method: string): Promise<number> => {
      const waits = new PassThrough().resume();
      const request = { method, path: '/', fields: [], body: null, waits, client: '192.0.2.1' };
      return at
        .ask(request, () => waits)
        .catch((error: unknown) => (error as OriginProblem).status);
    };
    try {
      const statuses: number[] = [];
      for (let i = 0; i < 10; i++) statuses.push(await ask('GET'));
      expect(statuses).toEqual(Array(10).fill(200));
      expect(times).toBeGreaterThan(10);
      // What changes something may have been done already, and is not asked twice.
      times = 0;
      for (let i = 0; i < 10; i++) statuses.push(await ask('POST'));
      expect(statuses).toContain(502);
      expect(times).toBe(10);
    } finally {
      pace.close();
      await at.close();
      fickle.close();
    }
  });

  test('a release takes effect between two requests, and drops none', async () => {
    const statuses: number[] = [];
    let isOver = false;
    const load = Array.from({ length: 8 }, async () => {
      while (!isOver) {
        const answer = await get('/open');
        // A body that nobody reads holds its connection until the other side gives it up.
        await answer.arrayBuffer();
        statuses.push(answer.status);
      }
    });
    for (let i = 0; i < 5; i++) await release(`${SITE}# ${i}\n`);
    await release(
      SITE.replace('  - { from: /old,', '  - { from: /open, to: / }\n  - { from: /old,'),
    );
    while (statuses.at(-1) !== 302) await new Promise(setImmediate);
    isOver = true;
    await Promise.all(load);
    expect(new Set(statuses)).toEqual(new Set([200, 302]));
    await release(SITE);
  });
});

test.each([
  ['gateways: [{ site: x, port: 1 }]', '"origin" of a gateway is missing'],
  ['gateways: [{ site: x, port: 1, origin: "http://x/y" }]', '"origin" is protocol and host'],
  [
    'gateways: [{ site: x, port: 1, origin: "http://x", token: { keys: k } }]',
    'A token comes in a "cookie" or in a "header"',
  ],
  ['gateway: []', '"gateway" is not a setting here.'],
  ['gateways: [', 'settings.yaml'],
])('settings %j are refused: %s', async (text, message) => {
  const folder = temporaryFolder();
  const file = join(folder.path, 'settings.yaml');
  writeFileSync(file, text);
  const ended = await kleidon(['serve', '--data', folder.path, '--settings', file]);
  folder.remove();
  expect([ended.code, ended.out]).toEqual([2, '']);
  expect(ended.err).toContain(message);
});
