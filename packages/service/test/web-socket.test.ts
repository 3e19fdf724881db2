import { once } from 'node:events';
import { readFileSync } from 'node:fs';
import { createServer, type IncomingMessage } from 'node:http';
import { createServer as createHttps } from 'node:https';
import type { Socket } from 'node:net';
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { Duplex } from 'node:stream';
import { jest } from '@jest/globals';
import { paceFor } from '../src/gateway/origin/pace.ts';
import { join as joinSockets } from '../src/gateway/web-socket.ts';
import { temporaryFolder } from './running.ts';
import { stageGateway, statusIn, type GatewayStage } from './gateway-stage.ts';
import { HANDSHAKE, printed, switching } from './web-sockets.ts';

const SITE = `kleidon: 1
site: { name: Sockets, address: https://stage.example, sign-in: /sign-in }
roles: { crew: x }
pages: { /: Home, '/:page': { title: Any, example: /open }, /crew: Crew, '/crew/:x': { title: X, example: /crew/x }, /sign-in: Sign in }
gates: { crew: { under: /crew, admit: role crew } }
parts: { crew: { admit: role crew } }
`;

describe('connections that ask for another protocol', () => {
  const asked: { method: string; url: string; raw: string[]; port: number | undefined }[] = [];
  const website = createServer((request, response) => {
    const { method = '', url = '', rawHeaders: raw } = request;
    asked.push({ method, url, raw, port: request.socket.remotePort });
    response.end(`ordinary ${url}`);
  });
  website.on('upgrade', (request: IncomingMessage, socket: Socket) => {
    const { method = '', url = '', rawHeaders: raw, headers } = request;
    asked.push({ method, url, raw, port: socket.remotePort });
    const key = headers['sec-websocket-key'] ?? '';
    socket.on('error', () => undefined);
    switch (url) {
      case '/wrong-accept':
        socket.write(switching('AAAAAAAAAAAAAAAAAAAAAA=='));
        return;
      case '/other':
        socket.write(switching(key).replace('Upgrade: websocket', 'Upgrade: h2c'));
        return;
      case '/no':
        socket.end(
          'HTTP/1.1 409 Not On Tuesdays\r\nContent-Type: text/plain\r\nContent-Length: 10\r\nX-Why: a\r\n\r\nno sockets',
        );
        return;
      case '/marked':
        socket.end(
          'HTTP/1.1 200 OK\r\nContent-Type: text/html\r\nConnection: close\r\n\r\n<p data-kleidon-part=crew>secret</p>seen',
        );
        return;
      case '/ranged': {
        // It knows nothing of WebSockets, and honours ranges.
        const page = '<p data-kleidon-part=crew>a secret of the crew</p>seen';
        const from = Number(/bytes=(\d+)-/.exec(headers.range ?? '')?.[1] ?? 0);
        const line = from > 0 ? '206 Partial Content' : '200 OK';
        const content = page.slice(from);
        socket.end(
          `HTTP/1.1 ${line}\r\nContent-Type: text/html\r\nETag: "e"\r\nContent-Length: ${content.length}\r\nConnection: close\r\n\r\n${content}`,
        );
        return;
      }
      case '/deaf':
        // It never ends its half.
        socket.write(switching(key));
        return;
      case '/silent':
        return;
      default:
        socket.write(switching(key, { 'Set-Cookie': 'kleidon-session=x', 'X-Extra': 'y' }));
        socket.write(`at ${url} `);
        socket.pipe(socket);
    }
  });
  let stage: GatewayStage;
  beforeAll(async () => {
    stage = await stageGateway({ site: SITE, website });
  });
  afterAll(() => stage.end());
  beforeEach(() => (asked.length = 0));

  const shake = (path: string, more: Record<string, string> = {}, line = 'GET'): string =>
    `${line} ${path} HTTP/1.1\r\nHost: HOST\r\n${printed({ ...HANDSHAKE, ...more })}\r\n`;
  /** Opens a WebSocket, and gives its connection and all that came so far. */
  const open = async (
    path: string,
    cookie = '',
  ): Promise<{ socket: Socket; said: () => string }> => {
    const socket = await stage.connect();
    let said = '';
    socket.on('error', () => undefined);
    socket.on('data', (chunk: Buffer) => (said += chunk.toString('latin1')));
    socket.write(
      shake(path, cookie === '' ? {} : { Cookie: cookie }).replace('HOST', stage.host()),
    );
    while (!said.includes('\r\n\r\n')) await once(socket, 'data');
    return { socket, said: () => said };
  };

  test.each([
    [
      'h2c',
      {
        Upgrade: 'h2c',
        'HTTP2-Settings': 'AAMAAABkAAQAAP__',
        Connection: 'Upgrade, HTTP2-Settings',
      },
    ],
    ['h2c, with its settings unnamed', { Upgrade: 'h2c', 'HTTP2-Settings': 'AAMAAABkAAQAAP__' }],
    ['any other', { Upgrade: 'echo' }],
    ['several', { Upgrade: 'websocket, h2c' }],
    ['several the other way round', { Upgrade: 'h2c, websocket' }],
    ['without a key', { 'Sec-WebSocket-Key': '' }],
    ['with a key of another length', { 'Sec-WebSocket-Key': 'AAAA' }],
    ['of another version', { 'Sec-WebSocket-Version': '8' }],
    ['with content', { 'Content-Length': '0' }],
  ])('%s: an ordinary request, without its Upgrade', async (_, more) => {
    const answer = await stage.raw(
      `${shake('/open', more)}GET /crew HTTP/1.1\r\nHost: HOST\r\n\r\n`,
    );
    expect(statusIn(answer)).toBe(200);
    expect(answer).toContain('ordinary /open');
    // What follows is no request any more: the connection is closed.
    expect(answer.match(/HTTP\/1\.1 \d+/g)).toEqual(['HTTP/1.1 200']);
    expect(asked.map(({ url }) => url)).toEqual(['/open']);
    expect(asked[0]!.raw.join('\n')).not.toMatch(/upgrade|http2-settings/i);
  });

  test('a method other than GET changes no protocol', async () => {
    const answer = await stage.raw(shake('/open', { Connection: 'Upgrade, close' }, 'POST'));
    expect([statusIn(answer), asked[0]?.method]).toEqual([200, 'POST']);
    expect(asked[0]!.raw.join('\n')).not.toMatch(/upgrade/i);
  });

  test('content behind a handshake is neither forwarded nor taken for a request of someone else', async () => {
    const hidden = 'DELETE /crew/1 HTTP/1.1\r\nHost: stage.example\r\n\r\n';
    const answer = await stage.raw(
      shake('/open', { 'Content-Length': String(hidden.length), Connection: 'Upgrade, close' }) +
        hidden,
    );
    expect(statusIn(answer)).toBe(200);
    const others = await Promise.all(Array.from({ length: 5 }, () => stage.get('/other')));
    expect(others.map(({ status }) => status)).toEqual(Array(5).fill(200));
    expect(asked.filter(({ method }) => method !== 'GET')).toEqual([]);
  });

  test('a handshake has a connection of its own, and a WebSocket goes both ways', async () => {
    await stage.get('/open');
    const { socket, said } = await open('/live?x=1');
    socket.write('hello');
    while (!said().endsWith('hello')) await once(socket, 'data');
    expect(said()).toMatch(/^HTTP\/1\.1 101 Switching Protocols\r\n/);
    expect(said()).toContain('X-Extra: y');
    expect(said()).not.toMatch(/set-cookie/i);
    expect(said()).toMatch(/\r\n\r\nat \/live\?x=1 hello$/);
    expect(new Set(asked.map(({ port }) => port)).size).toBe(2);
    expect(asked.at(-1)!.raw).toEqual(expect.arrayContaining(['host', 'stage.example']));
    socket.destroy();
  });

  test.each([
    ['/wrong-accept', 502],
    ['/other', 502],
    ['/silent', 504],
    ['/crew', 303],
    ['/nothing/here', 404],
    ['/crew%2Fx', 400],
  ])('%s ends as an ordinary response: %i', async (path, status) => {
    const answer = await stage.raw(shake(path));
    expect(statusIn(answer)).toBe(status);
    expect(answer).toMatch(/\r\n\r\n/);
  });

  test('another response of the website comes whole, with its reason phrase, and is looked at like any other', async () => {
    const answer = await stage.raw(shake('/no'));
    expect(answer).toMatch(/^HTTP\/1\.1 409 Not On Tuesdays\r\n/);
    expect(answer).toContain('X-Why: a');
    expect(answer).toMatch(/no sockets$/);
    const marked = await stage.raw(shake('/marked'));
    expect(marked).toContain('seen');
    expect(marked).not.toContain('secret');
  });

  test('a refused handshake with a range is given no part of a page', async () => {
    for (let from = 1; from < 50; from += 7) {
      const answer = await stage.raw(shake('/ranged', { Range: `bytes=${from}-` }));
      expect(answer).not.toMatch(/secret|crew<|ETag|206/);
      expect([200, 502]).toContain(statusIn(answer));
    }
  });

  test('a handshake that is pipelined behind a request waits for its response', async () => {
    const answer = await stage.raw(`GET /open HTTP/1.1\r\nHost: HOST\r\n\r\n${shake('/no')}`);
    expect(answer.match(/HTTP\/1\.1 \d+/g)).toEqual(['HTTP/1.1 200', 'HTTP/1.1 409']);
    expect((await stage.get('/open')).status).toBe(200);
  });

  test('a WebSocket that the visitor has ended takes no turn, though the website keeps its half', async () => {
    const all = await Promise.all(Array.from({ length: 32 }, () => open('/deaf')));
    const busy = await stage.raw(shake('/deaf'));
    expect(statusIn(busy)).toBe(503);
    const closed = all.map(({ socket }) => once(socket, 'close'));
    for (const { socket } of all) socket.end();
    await Promise.all(closed);
    const { socket } = await open('/deaf');
    socket.destroy();
  }, 20_000);

  test('a WebSocket ends within two seconds once a release takes the right away', async () => {
    const cookie = await stage.cookieFor('vik', ['crew']);
    const [mine, open1] = await Promise.all([open('/crew/x', cookie), open('/open')]);
    let isOpen = true;
    open1.socket.once('close', () => (isOpen = false));
    const began = performance.now();
    const closed = once(mine.socket, 'close');
    await stage.release(SITE.replace('admit: role crew }', 'admit: nobody }'));
    await closed;
    expect(performance.now() - began).toBeLessThan(2500);
    expect(isOpen).toBe(true);
    open1.socket.destroy();
    await stage.release(SITE);
  });

  test('a WebSocket ends once its token has run out', async () => {
    const { socket } = await open('/crew/x', await stage.cookieFor('vik', ['crew'], '2s'));
    await once(socket, 'close');
  });
});

test('a visitor who answers no ping has vanished, though the website goes on', () => {
  jest.useFakeTimers();
  const pace = paceFor(0, () => false);
  const ends = () => {
    const written: Buffer[] = [];
    const duplex = new Duplex({
      read: () => {},
      write: (chunk: Buffer, _, done) => {
        written.push(chunk);
        done();
      },
    });
    return { duplex, written: () => Buffer.concat(written.splice(0)).toString('hex') };
  };
  const [visitor, website] = [ends(), ends()];
  joinSockets(visitor.duplex, website.duplex, pace);
  const from = (end: typeof visitor, hex: string): void => {
    end.duplex.emit('data', Buffer.from(hex, 'hex'));
  };
  // The middle of a frame of 300 bytes is no place for a ping.
  from(website, `82 7e 01 2c ${'00'.repeat(200)}`.replaceAll(' ', ''));
  jest.advanceTimersByTime(200_000);
  expect(visitor.written()).not.toMatch(/8900$/);
  from(website, '00'.repeat(100));
  jest.advanceTimersByTime(20_000);
  expect(visitor.written()).toMatch(/^(?:00)+8900$/);
  // A pong, and all the visitor sends, says that they are there.
  from(visitor, '8a8000000000');
  expect(website.written()).toBe('8a8000000000');
  for (let i = 0; i < 12; i++) {
    from(website, '81024142');
    jest.advanceTimersByTime(5_000);
  }
  expect(visitor.written()).toMatch(/^(?:81024142)+8900(?:81024142)+$/);
  expect(visitor.duplex.destroyed).toBe(false);
  jest.advanceTimersByTime(60_000);
  expect([visitor.duplex.destroyed, website.duplex.destroyed]).toEqual([true, true]);
  pace.close();
  jest.useRealTimers();
});

test('a WebSocket to a website with https is encrypted', async () => {
  const folder = temporaryFolder();
  const [key, cert] = [join(folder.path, 'key.pem'), join(folder.path, 'cert.pem')];
  spawnSync('openssl', [
    ...['req', '-x509', '-newkey', 'ec', '-pkeyopt', 'ec_paramgen_curve:P-256', '-nodes'],
    ...['-keyout', key, '-out', cert, '-days', '2', '-subj', '/CN=localhost'],
    ...['-addext', 'subjectAltName=DNS:localhost'],
  ]);
  const website = createHttps({ key: readFileSync(key), cert: readFileSync(cert) });
  website.on('upgrade', (request: IncomingMessage, socket: Socket) => {
    socket.end(switching(request.headers['sec-websocket-key']!) + 'encrypted');
  });
  process.env['NODE_EXTRA_CA_CERTS'] = cert;
  const stage = await stageGateway({
    site: SITE,
    website,
    address: (port) => `https://localhost:${port}`,
  });
  delete process.env['NODE_EXTRA_CA_CERTS'];
  const answer = await stage.raw(`GET /open HTTP/1.1\r\nHost: HOST\r\n${printed(HANDSHAKE)}\r\n`);
  expect(answer).toMatch(/^HTTP\/1\.1 101 [^]*encrypted$/);
  await stage.end();
  folder.remove();
});

test('stopping does not wait for WebSockets and event streams', async () => {
  const website = createServer((_, response) => {
    response.writeHead(200, { 'Content-Type': 'text/event-stream' });
    response.write('data: one\n\n');
  });
  website.on('upgrade', (request: IncomingMessage, socket: Socket) => {
    socket.write(switching(request.headers['sec-websocket-key']!));
  });
  const stage = await stageGateway({ site: SITE, website });
  const sockets = await Promise.all([stage.connect(), stage.connect()]);
  for (const [i, socket] of sockets.entries()) {
    socket.write(
      `GET /open HTTP/1.1\r\nHost: ${stage.host()}\r\n${i === 0 ? printed(HANDSHAKE) : ''}\r\n`,
    );
    await once(socket, 'data');
  }
  const began = performance.now();
  expect(await stage.service().end()).toBe(0);
  expect(performance.now() - began).toBeLessThan(5000);
  for (const socket of sockets) socket.destroy();
  await stage.end();
});
