import { createServer } from 'node:http';
import fc from 'fast-check';
import { decisions, siteFiles } from '@kleidon/core';
import { stageGateway, statusIn, type GatewayStage } from './gateway-stage.ts';

const SITE = `kleidon: 1
site: { name: Bypass, address: https://stage.example, also: [https://www.stage.example], tidy: { final-slash: keep } }
pages: { /: Home, '/*': { title: Any, example: /a } }
gates: { secret: { under: /secret, admit: nobody } }
`;

/** What a website was asked, as it came. */
interface Asked {
  readonly method: string;
  readonly url: string;
  readonly raw: readonly string[];
}

/**
 * Whether some server could take a path for one in the closed section: it decodes what it can, twice, folds
 * letters, cuts parameters off, drops dots and spaces at the end of names, and then resolves dots.
 */
function mayBeSecret(url: string): boolean {
  const readings = new Set<string>();
  let path = url.replace(/[?#].*$/s, '');
  for (let i = 0; i < 3; i++) {
    readings.add(path);
    readings.add(path.replace(/[?#].*$/s, ''));
    path = path.replace(/%u([\da-f]{4})/gi, (_, hex: string) =>
      String.fromCharCode(parseInt(hex, 16)),
    );
    path = Buffer.from(
      path.replace(/%([\da-f]{2})/gi, (_, hex: string) => String.fromCharCode(parseInt(hex, 16))),
      i === 0 ? 'utf8' : 'utf8',
    ).toString('utf8');
    path = safely(path);
  }
  return [...readings].some((one) => {
    const folded = one
      .normalize('NFKC')
      .replaceAll('\\', '/')
      .toLowerCase()
      .split('/')
      .map((segment) => segment.replace(/;.*$/s, ''))
      .map((segment) =>
        /^\.{1,2}$/.test(segment) ? segment : segment.replace(/(?:[. ]|::\$.*)+$/, ''),
      )
      .filter((segment) => segment !== '' && segment !== '.');
    const kept: string[] = [];
    for (const segment of folded) {
      if (segment === '..') kept.pop();
      else kept.push(segment);
    }
    return kept[0] === 'secret';
  });
}

/** Bytes that were read one by one, as the UTF-8 that they are; unchanged where they are none. */
function safely(text: string): string {
  if (/[^\0-\xff]/.test(text)) return text;
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(Buffer.from(text, 'latin1'));
  } catch {
    return text;
  }
}

const odd = fc.constantFrom(
  ...[
    'secret',
    'secret',
    'SECRET',
    'sec%72et',
    '%73ecret',
    'secre%54',
    '%2573ecret',
    'secret;a=b',
    'secret.',
    'secret%20',
  ],
  ...[
    'secret%09',
    'secret%00',
    'secret%2f',
    'secret%5cx',
    'secret\\x',
    'secret%3Fx',
    'secret%23',
    'secret?',
    'secret::$DATA',
  ],
  ...[
    '\xef\xbd\x93ecret',
    '%EF%BD%93ecret',
    'secret\xc2\xa0',
    '%u0073ecret',
    '%c0%afsecret',
    's\xc5\xbfecret',
    'secret~1',
  ],
  ...[
    '..',
    '.',
    '%2e%2e',
    '%2E.',
    '..;',
    '.;',
    '..%00',
    '%252e%252e',
    '...',
    '..%20',
    '. .',
    '\xe2\x80\xa5',
    '.%0d',
    '..%5c',
  ],
  ...[
    'a',
    'b.c',
    '.git',
    '.x',
    'x',
    '',
    '',
    '%',
    '%zz',
    'index.html',
    '*',
    ':x',
    '{',
    '~',
    'a b',
    'é',
    '%C3%A9',
    '%e9',
  ],
);
const segment = fc.oneof(
  {
    weight: 3,
    arbitrary: fc.constantFrom(
      'a',
      'b.c',
      '.git',
      'x',
      '..',
      '.',
      '%2e%2e',
      'secret',
      'É',
      '%c3%a9',
    ),
  },
  { weight: 1, arbitrary: odd },
);
const path = fc
  .tuple(
    fc.array(segment, { minLength: 1, maxLength: 7 }),
    fc.constantFrom('/', '/', '/', '//', '\\', '/./', '%2f'),
  )
  .map(([segments, separator]) => `/${segments.join(separator)}`);
const target = fc.oneof(
  { weight: 12, arbitrary: path },
  {
    weight: 2,
    arbitrary: fc
      .tuple(
        path,
        fc.constantFrom('?x=1', '?/../secret', '#/secret', '?%0d%0aX: y', '?x y', '?\xe9'),
      )
      .map((both) => both.join('')),
  },
  {
    weight: 2,
    arbitrary: fc
      .tuple(
        fc.constantFrom(
          'http://HOST',
          'https://HOST',
          'HTTP://HOST',
          'http://evil.example',
          'http://HOST@evil',
          'http://a@HOST',
          'http:/',
          'http:',
          'ftp://HOST',
          'http://HOST:80',
          'http://stage.example',
          '//HOST',
          '*',
          'HOST:443',
        ),
        path,
      )
      .map((both) => both.join('')),
  },
);
const method = fc.constantFrom(
  ...[
    'GET',
    'GET',
    'GET',
    'GET',
    'HEAD',
    'POST',
    'PUT',
    'PATCH',
    'DELETE',
    'OPTIONS',
    'TRACE',
    'CONNECT',
  ],
  ...['PROPFIND', 'get', 'GE T', 'PRI', 'MOVE', 'X'],
);
const INNER = 'GET /secret/inner HTTP/1.1\r\nHost: HOST\r\n\r\n';
const field = fc.constantFrom(
  ...[
    'Host: evil.example',
    'Host: HOST/secret',
    'Host: HOST',
    'HOST: HOST',
    'Host : HOST',
    'X-Original-URL: /secret',
  ],
  ...[
    'X-Rewrite-URL: /secret',
    'X_Original_URL: /secret',
    'X-HTTP-Method-Override: DELETE',
    'X-Forwarded-Host: evil',
    'Forwarded: host=evil',
  ],
  ...[
    'Kleidon-Visitor: x',
    'kleidon_visitor: x',
    'Remote-User: admin',
    'Remote_User: admin',
    'X-Auth-Request-User: a',
    'Proxy: x',
  ],
  ...[
    'Transfer-Encoding: chunked',
    'Transfer-Encoding : chunked',
    'Transfer_Encoding: chunked',
    'Transfer-Encoding: xchunked',
    'Transfer-Encoding: chunked, identity',
  ],
  ...[
    `Content-Length: ${INNER.length}`,
    'Content-Length: 0',
    'Content-Length: +5',
    'Content_Length: 5',
    'Content-Length: 5, 5',
    'Content-Length:',
  ],
  ...[
    'Connection: Upgrade',
    'Upgrade: h2c',
    'HTTP2-Settings: AAMAAABk',
    'Upgrade: websocket',
    'Sec-WebSocket-Key: dGhlIHNhbXBsZSBub25jZQ==',
    'Sec-WebSocket-Version: 13',
  ],
  ...[
    'Connection: Host',
    'Connection: Content-Length',
    'Connection: close, Kleidon-Visitor',
    'Expect: 100-continue',
    'TE: trailers',
    'Trailer: Host',
    ' folded: x',
    'X: a\0b',
    'X: \x01',
    'Bad Name: x',
    ': x',
  ],
);
const mostly = <T>(usual: T, ...others: T[]): fc.Arbitrary<T> =>
  fc.oneof({ weight: 12, arbitrary: fc.constant(usual) }, fc.constantFrom(...others));
const request = fc
  .tuple(
    fc.oneof({ weight: 3, arbitrary: fc.constant('GET') }, method),
    target,
    mostly('HTTP/1.1', 'HTTP/1.0', 'HTTP/2.0', 'HTTP/1.1 x', ''),
    fc.oneof(
      { weight: 2, arbitrary: fc.constant<string[]>([]) },
      fc.array(field, { minLength: 1, maxLength: 4 }),
    ),
    mostly('\r\n', '\n', '\r'),
    mostly(
      '',
      INNER,
      `0\r\n\r\n${INNER}`,
      `5\r\nhello\r\n0\r\n\r\n${INNER}`,
      '5;x\r\nhello\r\n0\r\n\r\n',
    ),
  )
  .map(([name, what, version, fields, end, body]) =>
    [
      `${name} ${what} ${version}`.trimEnd(),
      ...(fields.some((one) => /^host:/i.test(one)) ? [] : ['Host: HOST']),
      ...fields,
      'Connection: close',
      '',
      body,
    ].join(end),
  );

const FORBIDDEN =
  /^(?:x.original.url|x.rewrite.url|x.http.method.override|x.forwarded.host|kleidon.*|remote.user|x.auth.request.user|proxy|upgrade|http2.settings|te|trailer|expect)$/i;

describe('requests that mean to get round a gate', () => {
  const asked: Asked[] = [];
  const website = createServer((incoming, response) => {
    const { method: name = '', url = '', rawHeaders: raw } = incoming;
    asked.push({ method: name, url, raw });
    incoming.resume();
    response.end(`[${url}]`);
  });
  let stage: GatewayStage;
  let site: decisions.PreparedSite;
  beforeAll(async () => {
    stage = await stageGateway({
      site: SITE,
      website,
      settings: '    limits: { connections-per-client: 256 }',
    });
    const read = siteFiles.readSite(SITE, 'x');
    if (!read.ok) throw new Error('The site file has errors.');
    site = decisions.prepareSite(read.site);
  });
  afterAll(() => stage.end());

  test('none reaches what the rules refuse, and each is asked for in the form that was judged', async () => {
    const count = Number(process.env['REQUESTS'] ?? 4000);
    const statuses = new Map<number | null, number>();
    const ask = async (bytes: string): Promise<void> => {
      const before = asked.length;
      const answer = await Promise.race([
        stage.raw(bytes),
        new Promise<string>((resolve) => setTimeout(() => resolve(''), 5000)),
      ]);
      const status = statusIn(answer);
      statuses.set(status, (statuses.get(status) ?? 0) + 1);
      for (const one of asked.slice(before)) {
        const names = one.raw.filter((_, i) => i % 2 === 0);
        const hosts = one.raw.filter((_, i) => i % 2 === 1 && /^host$/i.test(one.raw[i - 1]!));
        // Read again, what was asked for is what it is: nothing in it means something else.
        expect({ bytes, ...one, again: decisions.websiteAddress(site, one.url) }).toMatchObject({
          again: one.url,
        });
        expect({ bytes, url: one.url, secret: mayBeSecret(one.url) }).toMatchObject({
          secret: false,
        });
        expect({ bytes, names: names.filter((name) => FORBIDDEN.test(name)) }).toMatchObject({
          names: [],
        });
        expect({ bytes, hosts }).toMatchObject({ hosts: ['stage.example'] });
      }
      if (/\[\/[^\]]*\]/.test(answer))
        expect(mayBeSecret(/\[(\/[^\]]*)\]/.exec(answer)![1]!)).toBe(false);
    };
    const waiting = fc.sample(request, count);
    await Promise.all(
      Array.from({ length: 32 }, async () => {
        for (let next = waiting.pop(); next !== undefined; next = waiting.pop()) await ask(next);
      }),
    );
    // Enough of them are requests that the website gets to see.
    expect(statuses.get(200) ?? 0).toBeGreaterThan(count / 50);
    expect(stage.service().process.exitCode).toBeNull();
    expect((await stage.get('/a')).status).toBe(200);
    expect(asked.length).toBeGreaterThan(count / 50);
  }, 900_000);

  test('and the reading that finds them would find one that got through', () => {
    for (const url of [
      '/x/..;/secret/s',
      '/secret./s',
      '/%2573ecret',
      '/a/%EF%BC%8F../secret',
      '/SECRET%20',
    ])
      expect(mayBeSecret(url)).toBe(true);
    expect(mayBeSecret('/a/secret')).toBe(false);
  });
});
