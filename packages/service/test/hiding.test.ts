import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import type { AddressInfo, Socket } from 'node:net';
import { PairCounter, report } from '../../core/test/reference/pairs.ts';
import { randomBy } from '../../core/test/reference/random-site.ts';
import { stageGateway, type GatewayStage } from './gateway-stage.ts';
import { HANDSHAKE, printed, switching } from './web-sockets.ts';

/**
 * The promise of `hide` at the gateway. One site has a page that is hidden from guests; the other has neither the page
 * nor its gate, and its website does not have it. Both answer every sequence of requests alike, byte for byte, and ask
 * their websites alike, so that the time is the same too.
 */

const SEQUENCES = Number(process.env['KLEIDON_SEQUENCES'] ?? 400);
const SEED = Number(process.env['KLEIDON_SEED'] ?? 1);
const LEAST = SEQUENCES >= 10_000 ? 20 : 0;

const DIMENSIONS = {
  method: ['GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE', 'OPTIONS'],
  address: [
    'page',
    'capitals',
    'slash',
    'query',
    'escape',
    'alias',
    'other alias',
    'old',
    'file',
    'also',
    'absolute',
  ],
  header: [
    'none',
    'range',
    'if-none-match',
    'if-match',
    'json',
    'gzip',
    'upgrade',
    'h2c',
    'expect',
    'cookies',
    'close',
  ],
  body: ['none', 'json', 'malformed', 'chunked'],
  version: ['1.1', '1.0'],
  website: [
    'usual',
    'busy',
    'down',
    'error',
    'redirects',
    'gone',
    'accepts',
    'json',
    'cut off',
    'gzip',
  ],
};
type State = (typeof DIMENSIONS.website)[number];

const random = randomBy(SEED);
const one = <T>(of: readonly T[]): T => of[Math.floor(random() * of.length)]!;

const site = (hidden: boolean): string => `kleidon: 1
site: { name: H, address: https://stage.example, also: [https://www.stage.example], undeclared: website }
roles: { crew: x }
pages:
  /: Home
  /open: Open
${hidden ? '  /secret: { title: Secret, aliases: [/other, /old/place] }\n  /secret.pdf: { title: File, kind: file }' : ''}
gates:
  crew: { under: /crew, admit: role crew }
  elsewhere: { at: /elsewhere, admit: role crew, otherwise: [{ do: hide }] }
${hidden ? '  secret: { at: [/secret, /secret.pdf], admit: role crew, otherwise: [{ do: hide }] }' : ''}
redirects:
  - { from: '/moved/*', to: '/*', kind: permanent }
  - { from: '/go', to: /other }
  - { from: '/secret', to: /open, unless-page: yes, when: 'query.open = "1"' }
not-found: [{ under: /, say: 'Nothing at {rest}.' }]
parts: { crew: { admit: role crew } }
`;

/** Names of fields; how the content is framed depends on how fast it came. */
const namesOf = (headers: object): string[] =>
  Object.keys(headers).filter((name) => !/^(?:content-length|transfer-encoding)$/.test(name));

/** A website that has the hidden page, or not; what it does with everything else depends on its state. */
function website(hasPage: boolean) {
  const asked: string[] = [];
  let state: State = 'usual';
  let sequence = '';
  const answer = (request: IncomingMessage, response: ServerResponse, body: string): void => {
    const { method = '', url = '', headers } = request;
    const path = url.replace(/\?.*/, '');
    if (headers['x-sequence'] === sequence)
      asked.push(JSON.stringify([method, namesOf(headers), body]));
    if (hasPage && /^\/(?:secret|other|old\/place)\b/.test(path)) {
      response.end('the secret page');
      return;
    }
    if (path === '/' || path === '/open') {
      response.setHeader('Content-Type', 'text/html');
      response.end('<p data-kleidon-part=crew>crew</p>open');
      return;
    }
    if (method === 'OPTIONS') {
      response.writeHead(204, { Allow: 'GET, HEAD' }).end();
      return;
    }
    if (body.startsWith('{"') && headers['content-type'] === 'application/json')
      try {
        JSON.parse(body);
      } catch {
        response
          .writeHead(400, { 'Content-Type': 'application/json' })
          .end('{"error":"malformed"}');
        return;
      }
    switch (state) {
      case 'error':
        response.writeHead(500).end('error');
        return;
      case 'redirects':
        response.writeHead(301, { Location: `${path}/index?from=${path}` }).end();
        return;
      case 'gone':
        response.writeHead(410, { ETag: '"a"' }).end('gone');
        return;
      case 'accepts':
        response.writeHead(200, {
          'Content-Type': 'text/html',
          ETag: '"b"',
          'Accept-Ranges': 'bytes',
        });
        response.end('<main>one page for every address</main>');
        return;
      case 'json':
        response.writeHead(422, { 'Content-Type': 'application/problem+json' }).end('{}');
        return;
      case 'cut off':
        response.writeHead(200, { 'Content-Length': '10' });
        response.write('half');
        setImmediate(() => response.destroy());
        return;
      default:
        response.writeHead(404, { 'Content-Type': 'text/html', 'X-Powered-By': 'y' });
        response.end(`Cannot ${method} ${url}`);
    }
  };
  const server = createServer({ maxHeaderSize: 8 * 1024 }, (request, response) => {
    let body = '';
    if (state === 'down') {
      request.socket.destroy();
      return;
    }
    request.on('data', (chunk: Buffer) => (body += chunk.toString()));
    request.on('end', () => answer(request, response, body));
  });
  server.on('upgrade', (request: IncomingMessage, socket: Socket) => {
    const { url = '', headers } = request;
    if (headers['x-sequence'] === sequence)
      asked.push(JSON.stringify(['upgrade', namesOf(headers)]));
    if (state === 'down') socket.destroy();
    else if (hasPage && /^\/(?:secret|other|old\/place)\b/.test(url))
      socket.end('HTTP/1.1 206 Partial Content\r\nContent-Length: 6\r\n\r\nsecret');
    else if (state === 'accepts') socket.end(`${switching(headers['sec-websocket-key']!)}hello`);
    else socket.end('HTTP/1.1 404 Not Found\r\nContent-Length: 7\r\n\r\nnothing');
  });
  return {
    server,
    asked,
    set: (now: State, id: number) => {
      state = now;
      sequence = String(id);
      asked.length = 0;
    },
  };
}

interface Made {
  readonly text: string;
  readonly exercised: Record<string, string[]>;
}

function requestByChance(sequence: number, isLast: boolean): Made {
  const method = one(DIMENSIONS.method);
  const address = one(DIMENSIONS.address);
  // What ends a connection comes last.
  const header = one(isLast ? DIMENSIONS.header : DIMENSIONS.header.slice(0, -1));
  const version = header === 'upgrade' || !isLast ? '1.1' : one(DIMENSIONS.version);
  const body = header === 'upgrade' || header === 'h2c' ? 'none' : one(DIMENSIONS.body);
  const target = {
    page: '/secret',
    capitals: one(['/Secret', '/SECRET', '/Other', '/OLD/Place']),
    slash: one(['/secret/', '//secret', '/./secret']),
    query: one(['/secret?x=1', '/other?x=1', '/secret?open=1', '/open?open=1']),
    escape: one(['/%73ecret', '/secre%74?', '/old%2Dplace']),
    alias: '/other',
    'other alias': '/old/place',
    old: one(['/moved/secret', '/go', '/moved/other']),
    file: '/secret.pdf',
    also: one(['/secret', '/other', '/Other']),
    absolute: one(['http://HOST/secret', 'http://HOST/other']),
  }[address]!;
  const fields = {
    none: [],
    range: ['Range: bytes=2-'],
    'if-none-match': [`If-None-Match: ${one(['"a"', '*'])}`],
    'if-match': ['If-Match: "b"'],
    json: ['Accept: application/json'],
    gzip: ['Accept-Encoding: gzip, br'],
    upgrade: printed(HANDSHAKE)
      .trim()
      .split('\r\n')
      .concat(one([[], ['Range: bytes=2-']])),
    h2c: ['Connection: Upgrade', 'Upgrade: h2c'],
    expect: ['Expect: 100-continue'],
    cookies: [`Cookie: c=${'x'.repeat(10_000)}`],
    close: ['Connection: close'],
  }[header]!;
  const content = {
    none: [[], ''],
    json: [['Content-Type: application/json', 'Content-Length: 7'], '{"a":1}'],
    malformed: [['Content-Type: application/json', 'Content-Length: 6'], '{"a":1'],
    chunked: [['Transfer-Encoding: chunked'], '3\r\nabc\r\n0\r\n\r\n'],
  }[version === '1.0' && body === 'chunked' ? 'none' : body] as [string[], string];
  const line = header === 'upgrade' ? 'GET' : method;
  const lines = [
    `${line} ${target} HTTP/${version}`,
    `Host: ${address === 'also' ? 'www.stage.example' : 'HOST'}`,
    `X-Sequence: ${sequence}`,
    ...fields,
    ...content[0],
    ...(isLast && header !== 'upgrade' && header !== 'h2c' && header !== 'close'
      ? ['Connection: close']
      : []),
  ];
  return {
    text: `${lines.join('\r\n')}\r\n\r\n${content[1]}`,
    exercised: {
      method: [line],
      address: [address],
      header: [header],
      version: [version],
      body: [body],
    },
  };
}

describe('a hidden page at the gateway', () => {
  const sites = [website(true), website(false)];
  let stages: GatewayStage[] = [];
  beforeAll(async () => {
    stages = await Promise.all(
      sites.map(({ server }, i) => stageGateway({ site: site(i === 0), website: server })),
    );
    // The check of each site takes five seconds on an idle machine.
  }, 180_000);
  afterAll(() => Promise.all(stages.map((stage) => stage.end())));

  const rawAnswer = async (stage: GatewayStage, text: string): Promise<string> => {
    const answer = await stage.raw(text);
    return answer
      .replaceAll(stage.host(), 'HOST')
      .replace(/Date: [^\r]*/g, 'Date:')
      .replaceAll(String((stage.origin.address() as AddressInfo).port), 'PORT');
  };

  test('is answered like an address where nothing is', async () => {
    const pairs = new PairCounter(DIMENSIONS);
    const differing: string[] = [];
    let requests = 0;
    for (let i = 0; i < SEQUENCES; i++) {
      const state = one(DIMENSIONS.website);
      for (const each of sites) each.set(state, i);
      const count = 1 + Math.floor(random() * 3);
      const made = Array.from({ length: count }, (_, at) => requestByChance(i, at === count - 1));
      const text = made.map((each) => each.text).join('');
      const [actual, expected] = await Promise.all(stages.map((stage) => rawAnswer(stage, text)));
      requests += count;
      for (const { exercised } of made) pairs.add({ ...exercised, website: [state] });
      const [askedHere, askedThere] = sites.map(({ asked }) => asked.sort().join('\n'));
      // Requests behind one that ends the connection may be asked or not.
      const isWhole = actual!.match(/^HTTP\/1\.1 (?!100)/gm)?.length === count;
      if (actual !== expected || (isWhole && askedHere !== askedThere))
        differing.push([state, text, actual, expected, askedHere, askedThere].join('\n----\n'));
    }
    const missed = pairs.missed(LEAST, isImpossible);
    if (LEAST > 0) report({ requests, differing: differing.length, missed });
    expect(differing.slice(0, 1)).toEqual([]);
    expect(missed).toEqual([]);
  });
});

/** A handshake is a GET without content over HTTP/1.1. */
const isImpossible = (one: string, other: string): boolean =>
  (one === 'header: upgrade' && /^(?:method: (?!GET)|body: (?!none)|version: 1\.0)/.test(other)) ||
  (one === 'header: h2c' && /^body: (?!none)/.test(other));
