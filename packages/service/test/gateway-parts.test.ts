import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { once } from 'node:events';
import { createServer, type IncomingMessage, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { exportJWK, generateKeyPair, SignJWT, type CryptoKey, type JWTPayload } from 'jose';
import type { model } from '@kleidon/core';
import { readRequestTarget } from '../src/gateway/request-target.ts';
import { clientKey, clientReader } from '../src/gateway/origin/client.ts';
import {
  answeredFields,
  forwardedBy,
  forwardedFields,
  forwardedNames,
} from '../src/gateway/origin/fields.ts';
import { TooBusy, turnsWithin, type Turn } from '../src/gateway/origin/limits.ts';
import { ownPage, pageAsHtml } from '../src/gateway/page.ts';
import { readSettings } from '../src/settings/settings.ts';
import { loginByToken, type TokenLogin } from '../src/sign-in/token.ts';
import { visitorProof } from '../src/sign-in/visitor-proof.ts';

const folder = mkdtempSync(join(tmpdir(), 'kleidon-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const silent = { warn: () => undefined };
const isForwarded = forwardedNames(['X-User-Theme']);

describe('fields of a request', () => {
  test.each([
    ...['User-Agent', 'Accept-Language', 'Authorization', 'Sec-Fetch-User', 'Sec-CH-UA', 'Origin'],
    ...['X-Requested-With', 'X-CSRF-Token', 'X-XSRF-TOKEN', 'Idempotency-Key', 'X-Api-Key', 'DNT'],
    ...['Sec-WebSocket-Key', 'Access-Control-Request-Method', 'Upgrade-Insecure-Requests', 'From'],
    ...['HX-Current-URL', 'HX-Request', 'Turbo-Frame', 'X-Request-Id', 'Traceparent', 'X-Zip'],
    ...['Last-Event-ID', 'If-None-Match', 'Content-Digest', 'Max-Forwards', 'X-User-Theme'],
  ])('%s goes on', (name) => {
    expect(forwardedFields([name, 'x'], isForwarded)).toEqual([name, 'x']);
  });

  test.each([
    ...['X-Userinfo', 'X-JWT-Assertion', 'Impersonate-User', 'X-Is-Admin', 'OIDC-Claim-sub'],
    ...['X-Override-Url', 'Front-End-Https', 'X-Scheme', 'X-Admin', 'X-Account-Id', 'X-Tenant-Id'],
    ...['X-Permissions', 'X-On-Behalf-Of', 'X-Real-IP', 'X-Login', 'X-Person', 'X-Member-Level'],
    ...['X-SSL-Client-S-DN', 'X-Client-Name', 'Shib-Session-Id', 'X-Sub', 'X-Uid', 'X-Role'],
    ...['X-Path', 'X-HTTPS', 'X-Port', 'X-Script-Name', 'X-Accel-Redirect', 'X-Preferred-Username'],
    ...['X-CF-Connecting-IP', 'X-ProxyUser-Ip', 'X-Customer', 'X-Employee', 'X-Whoami', 'X-Act-As'],
  ])('%s, which claims who is asking, does not', (name) => {
    expect(forwardedFields([name, 'x'], isForwarded)).toEqual([]);
  });

  test.each([
    'Connection: keep-alive',
    'Keep-Alive: timeout=5',
    'TE: trailers',
    'Transfer-Encoding: chunked',
    'Upgrade: h2c',
    'Proxy-Authorization: Basic x',
    'Host: evil.example',
    'Forwarded: for=1.1.1.1',
    'X-FORWARDED-PROTO: https',
    'X_Forwarded_For: 1.1.1.1',
    'x-real-ip: 1.1.1.1',
    'X-Original-URL: /crew',
    'X-Rewrite-URL: /crew',
    'X-HTTP-Method: DELETE',
    'x_http_method_override: DELETE',
    'Kleidon-Visitor: x',
    'kleidon_visitor: x',
    'Expect: 100-continue',
    'Remote-User: admin',
    'X-Remote-User: admin',
    'X-Auth-Request-User: admin',
    'X-Authenticated-Groups: admin',
    'X-Client-IP: 1.1.1.1',
    'True-Client-IP: 1.1.1.1',
    'X-User: admin',
    'X-Email: a@b.c',
    'SSL-Client-Cert: x',
    'Proxy: http://evil.example',
    'Transfer_Encoding: chunked',
    'Content_Length: 9',
    'Accept_Language: en',
    'X.Forwarded.For: 1.1.1.1',
    'HTTP2-Settings: AAMAAABk',
  ])('%s does not go on', (line) => {
    expect(forwardedFields([...line.split(': '), 'Accept', '*/*'], isForwarded)).toEqual([
      'Accept',
      '*/*',
    ]);
  });

  test('what Connection names stays, and the rest goes on as it was written', () => {
    const fields = [
      'X-One',
      '1',
      'cOOkie',
      'a=1',
      'Connection',
      'close, x-one , X-Two',
      'X-Two',
      '2',
    ];
    expect(forwardedFields(fields, isForwarded)).toEqual(['cOOkie', 'a=1']);
    expect(forwardedFields(['A', '1', 'A', '2'], isForwarded)).toEqual(['A', '1', 'A', '2']);
  });
});

describe('fields of an answer', () => {
  test('those of the rules take the place of the website’s; both vary', () => {
    expect(
      answeredFields(
        ['Cache-Control', 'public', 'Vary', 'Accept', 'ETag', '"1"', 'Connection', 'close'],
        { 'Cache-Control': 'private, no-store', Vary: 'Cookie' },
      ),
    ).toEqual(['ETag', '"1"', 'Cache-Control', 'private, no-store', 'Vary', 'Accept, Cookie']);
  });

  test('no cache is told otherwise than the rules say', () => {
    const caching = [
      ...['CDN-Cache-Control', 'x', 'Cloudy-CDN-Cache-Control', 'x', 'Surrogate-Control', 'x'],
      ...['Surrogate-Key', 'x', 'X-Accel-Expires', '9', 'Expires', 'x', 'Pragma', 'x', 'Age', '1'],
    ];
    const rules = { 'Cache-Control': 'private, no-store', Vary: 'Cookie' };
    expect(answeredFields(caching, rules)).toEqual(Object.entries(rules).flat());
    expect(answeredFields(caching, {})).toEqual(caching);
  });

  test('what varies on who the website was told is for one visitor', () => {
    const raw = ['Vary', 'Accept, Kleidon-Visitor', 'Cache-Control', 'public', 'Expires', 'x'];
    expect(answeredFields(raw, {})).toEqual([
      'Cache-Control',
      'private, no-store',
      'Vary',
      'Accept, Cookie',
    ]);
    expect(answeredFields(['vary', 'FORWARDED'], {})).toContain('private, no-store');
  });

  test.each([
    'kleidon-session=x',
    ' =kleidon-session=x',
    '__Host-kleidon-session=x',
    '= =Kleidon-x=1',
  ])('the website can’t set %j', (cookie) => {
    expect(answeredFields(['Set-Cookie', cookie, 'Set-Cookie', 'a=1'], {})).toEqual([
      'Set-Cookie',
      'a=1',
    ]);
  });

  test('another server sets no cookie, and is sent none', () => {
    expect(answeredFields(['Set-Cookie', 'a=1', 'X', '1'], {}, false)).toEqual(['X', '1']);
    expect(
      forwardedFields(['Cookie', 'a=1', 'authorization', 'x', 'Accept', '*/*'], isForwarded, false),
    ).toEqual(['Accept', '*/*']);
  });

  test('without any of their own, the website’s are left alone', () => {
    const fields = ['Set-Cookie', 'a=1', 'Set-Cookie', 'b=2', 'Vary', 'Accept'];
    expect(answeredFields(fields, {})).toEqual(fields);
  });
});

test.each([
  ['192.0.2.1', 'for=192.0.2.1;host="h:1";proto=https;by=_kleidon'],
  ['2001:db8::1', 'for="[2001:db8::1]";host="h:1";proto=https;by=_kleidon'],
  ['', 'for=unknown;host="h:1";proto=https;by=_kleidon'],
])('Forwarded for %s (RFC 7239)', (remote, expected) => {
  expect(forwardedBy(remote, 'h:1', 'https')).toBe(expected);
});

describe('who sent a request', () => {
  const read = (headers: Record<string, string>, remoteAddress = '10.0.0.9', encrypted = false) =>
    clientReader(['10.0.0.0/8', '2001:db8::/32']).read({
      headers: { host: 'h', ...headers },
      socket: { remoteAddress, encrypted },
    } as unknown as IncomingMessage);

  test('is told by the connection, whatever a stranger says', () => {
    const said = { forwarded: 'for=9.9.9.9;proto=https', 'x-forwarded-proto': 'https' };
    expect(read(said, '192.0.2.1')).toEqual({ address: '192.0.2.1', protocol: 'http:', host: 'h' });
    expect(read(said, '::ffff:192.0.2.1')).toMatchObject({ address: '192.0.2.1' });
    expect(read({}, '192.0.2.1', true)).toMatchObject({ protocol: 'https:' });
  });

  test.each([
    [{ forwarded: 'for=9.9.9.9;proto=https;host=x' }, '9.9.9.9', 'https:', 'x'],
    [{ forwarded: 'For="[2001:DB9::1]:4711";Proto=HTTPS' }, '2001:db9::1', 'https:', 'h'],
    [{ forwarded: 'for=1.1.1.1;proto=https, for=9.9.9.9;proto=http' }, '9.9.9.9', 'http:', 'h'],
    [{ forwarded: 'for=1.1.1.1, for=9.9.9.9;proto=https, for=10.1.1.1' }, '9.9.9.9', 'https:', 'h'],
    [{ forwarded: 'for=_hidden;proto=https' }, 'unknown', 'https:', 'h'],
    [{ forwarded: 'nonsense', 'x-forwarded-proto': 'https' }, 'unknown', 'http:', 'h'],
    [
      { forwarded: 'for=1.1.1.1;proto=https;host=x', 'x-forwarded-for': '9.9.9.9' },
      'disputed',
      'http:',
      'h',
    ],
    [
      {
        forwarded: 'for=9.9.9.9;proto=https',
        'x-forwarded-for': '9.9.9.9',
        'x-forwarded-proto': 'https',
      },
      '9.9.9.9',
      'https:',
      'h',
    ],
    [
      { 'x-forwarded-for': '1.1.1.1, 9.9.9.9', 'x-forwarded-proto': 'https' },
      '9.9.9.9',
      'https:',
      'h',
    ],
    [
      { 'x-forwarded-for': '9.9.9.9', 'x-forwarded-proto': 'http, https' },
      '9.9.9.9',
      'https:',
      'h',
    ],
    [{ 'x-forwarded-proto': 'https', 'x-forwarded-host': 'x' }, 'unknown', 'https:', 'x'],
    [{}, 'unknown', 'http:', 'h'],
  ])('is told by a trusted proxy: %j', (headers, address, protocol, host) => {
    expect(read(headers as Record<string, string>)).toEqual({ address, protocol, host });
  });

  test('one subscriber is one client', () => {
    expect(clientKey('2001:db8:1:2::1')).toBe(clientKey('2001:db8:1:2:ffff::'));
    expect(clientKey('2001:db8:1:3::1')).not.toBe(clientKey('2001:db8:1:2::1'));
    for (const one of ['192.0.2.1', '::ffff:192.0.2.1', '::ffff:c000:201', '64:ff9b::c000:201'])
      expect(clientKey(one)).toBe('192.0.2.1');
  });
});

describe('turns', () => {
  const limits = { connections: 4, connectionsPerClient: 2, streams: 3, streamsPerClient: 2 };
  const turns = () => turnsWithin({ ...limits, queueTimeout: 50, minimumRate: 1 });
  const never = (): void => undefined;

  test('come one by one, to each client its share, and are refused after a while', async () => {
    const all = turns();
    const mine = [await all.take('192.0.2.1', never), await all.take('192.0.2.1', never)];
    const order: string[] = [];
    const third = all.take('192.0.2.1', never).then(() => order.push('mine'));
    // Another client does not wait for the first.
    const other = await all.take('192.0.2.2', never);
    expect(all.isContended).toBe(true);
    mine[0]!.end();
    mine[0]!.end();
    await third;
    expect(order).toEqual(['mine']);
    await expect(all.take('192.0.2.1', never)).rejects.toThrow(TooBusy);
    expect(all.isContended).toBe(false);
    other.end();
  });

  test('a queue of one client does not hold up another that comes later', async () => {
    const all = turns();
    const busy = await Promise.all(['a', 'a', 'b', 'b'].map((client) => all.take(client, never)));
    const order: string[] = [];
    const waiting = ['a', 'a', 'c'].map((client) =>
      all.take(client, never).then((turn) => {
        order.push(client);
        turn.end();
      }),
    );
    busy[2]!.end();
    for (const turn of busy) turn.end();
    await Promise.all(waiting);
    expect(order[0]).toBe('c');
  });

  test('whoever goes is not waited for, and a queue has an end', async () => {
    const all = turns();
    await Promise.all([all.take('a', never), all.take('a', never)]);
    let leave: () => void = never;
    const left = all.take('a', (way) => (leave = way));
    leave();
    await expect(left).rejects.toThrow(TooBusy);
    const many = Array.from({ length: 40 }, () => all.take('a', never));
    const ended = await Promise.allSettled(many);
    expect(ended.every(({ status }) => status === 'rejected')).toBe(true);
  });

  test('streams count by themselves', async () => {
    const all = turns();
    const stream = async (client: string): Promise<Turn | null> => {
      const turn = await all.take(client, never);
      if (turn.becomeStream()) return turn;
      turn.end();
      return null;
    };
    const first = await stream('a');
    expect([first, await stream('a')].includes(null)).toBe(false);
    expect(await stream('a')).toBeNull();
    expect(await stream('b')).not.toBeNull();
    expect(await stream('c')).toBeNull();
    first!.end();
    expect(await stream('c')).not.toBeNull();
  });
});

describe('what is asked for', () => {
  const target = (
    url: string,
    hosts: readonly string[],
    method = 'GET',
    protocol: 'http:' | 'https:' = 'https:',
    home = { protocol: 'https:', host: 'here:8080' },
  ) =>
    readRequestTarget(
      { method, url, rawHeaders: hosts.flatMap((host) => ['HoSt', host]) },
      { protocol, host: hosts[0] },
      home,
      'site.example',
    );

  test.each([
    ['/a?b=1', 'here:8080', '/a?b=1'],
    ['/a', 'HERE:8080', '/a'],
    ['/a', 'www.site.example', 'https://www.site.example/a'],
    ['http://here:8080/a?b', 'here:8080', '/a?b'],
    ['http://here:8080', 'here:8080', '/'],
    ['http://other/a', 'other', 'https://other/a'],
  ])('%s at %s is %s', (url, host, address) => {
    expect(target(url, [host])).toEqual({ method: 'GET', address, protocol: 'https:' });
  });

  test.each([
    ['/a', [], 'GET', 400],
    ['/a', ['here:8080', 'here:8080'], 'GET', 400],
    ['http://other/a', ['here:8080'], 'GET', 400],
    ['*', ['here:8080'], 'OPTIONS', 400],
    ['other:443', ['here:8080'], 'GET', 400],
    ['/a', ['here/open?'], 'GET', 400],
    ['/a', ['here:8080@x'], 'GET', 400],
    ['/a', ['he re'], 'GET', 400],
    ['/a', ['hé'], 'GET', 400],
    ['/a', [''], 'GET', 400],
    ['/a', ['here:80801234'], 'GET', 400],
    ['/a', ['here:8080'], 'TRACE', 405],
    ['/a', ['here:8080'], 'PROPFIND', 405],
  ])('%s for %j with %s is not looked at: %i', (url, hosts, method, status) => {
    expect(target(url, hosts, method)).toMatchObject({ status });
  });

  test('plain HTTP is the site’s own only where visitors reach the gateway by it', () => {
    const at = (protocol: 'http:' | 'https:', home: string) =>
      target('/a', ['here:8080'], 'GET', protocol, { protocol: home, host: 'here:8080' });
    expect(at('http:', 'https:')).toMatchObject({ address: 'http://site.example/a' });
    expect(at('http:', 'http:')).toMatchObject({ address: '/a', protocol: 'http:' });
    expect(at('https:', 'http:')).toMatchObject({ address: '/a', protocol: 'https:' });
  });

  test('what is not ASCII is read as UTF-8, and anything else is refused', () => {
    const bytes = (text: string): string => Buffer.from(text).toString('latin1');
    expect(target(bytes('/é'), ['here:8080'])).toMatchObject({ address: '/é' });
    expect(target('/\xe9', ['here:8080'])).toMatchObject({ status: 400 });
  });
});

test('a page of our own escapes all that it says, and asks for nothing from elsewhere', () => {
  const html = pageAsHtml(
    ownPage(403, {
      is: 'offers',
      choices: [
        [
          {
            product: 'p',
            title: `<i>"Permit" & 'more'</i>`,
            buyAt: '/buy?a="b"&c',
            isRenewal: false,
          },
        ],
        [{ product: 'q', title: 'Guide', buyAt: '/renew', isRenewal: true }],
      ],
    }),
  );
  expect(html).toContain(
    '<a href="/buy?a=&quot;b&quot;&amp;c">&lt;i&gt;&quot;Permit&quot; &amp; &#39;more&#39;&lt;/i&gt;</a>',
  );
  expect(html).toContain('<a href="/renew">Renew Guide</a>');
  expect(html).not.toMatch(/<(?:script|link|img|iframe)|url\(/);
  expect(ownPage(410, null).title).toBe('Gone');
  expect(ownPage(418, null).title).toBe('Something went wrong');
  expect(ownPage(200, { is: 'wait', text: null, seconds: 5, to: '/x' })).toMatchObject({
    words: 'This page has moved.',
    links: [{ address: '/x' }],
  });
});

describe('a token of the website', () => {
  let key: CryptoKey;
  const keys = join(folder, 'keys.json');
  beforeAll(async () => {
    const pair = await generateKeyPair('ES256', { extractable: true });
    key = pair.privateKey;
    writeFileSync(keys, JSON.stringify({ keys: [await exportJWK(pair.publicKey)] }));
  });
  const who = async (
    claims: JWTPayload,
    settings: object = {},
    expires: string | null = '1m',
  ): Promise<model.Visitor> => {
    const token = new SignJWT(claims).setProtectedHeader({ alg: 'ES256' });
    const signed = await (expires === null ? token : token.setExpirationTime(expires)).sign(key);
    login = loginByToken({ header: 'Authorization', keys, ...settings }, Date.now, {
      warn: (about: unknown) => logged.push(about),
    });
    return login.visitorOf(
      { headers: { authorization: `Bearer ${signed}` } } as IncomingMessage,
      'UTC',
    );
  };
  let login: TokenLogin;
  const logged: unknown[] = [];

  test.each([
    ['it has run out', {}, '-1s', { sub: 'kim' }],
    ['its claim "aud" is missing', { audience: 'a' }, '1m', { sub: 'kim' }],
    ['its claim "iss" is another one', { issuer: 'a' }, '1m', { sub: 'kim', iss: 'b' }],
    ['its claim "exp" is missing', {}, null, { sub: 'kim' }],
    ['the claim that names the visitor is missing', {}, '1m', {}],
    [
      'the keys of the login can not be had',
      { keys: 'http://127.0.0.1:9/k' },
      '1m',
      { sub: 'kim' },
    ],
  ] as const)('that is not taken leaves a trace: %s', async (reason, settings, expires, claims) => {
    logged.length = 0;
    expect((await who(claims, settings, expires)).guest).toBe(true);
    expect(login.rejected()).toEqual({
      count: 1,
      last: { reason, at: expect.any(Number) as number },
    });
    expect(logged).toEqual([{ reason, rejected: 1 }]);
    for (let i = 0; i < 3; i++)
      await login.visitorOf({ headers: { authorization: 'Bearer x' } } as IncomingMessage, 'UTC');
    // Many of one reason are one line, and none has the token in it.
    expect([login.rejected().count, logged.length]).toEqual([4, 2]);
    expect(JSON.stringify(logged)).not.toContain('eyJ');
  });

  test('is looked after at the start: without an audience, or without keys', async () => {
    const problemsOf = (settings: object) =>
      loginByToken({ header: 'Authorization', keys, ...settings }, Date.now, {
        warn: () => undefined,
      }).problems();
    expect(await problemsOf({ audience: 'site' })).toEqual([]);
    expect(await problemsOf({})).toEqual([expect.stringContaining('"audience" is missing')]);
    expect(await problemsOf({ audience: 'site', keys: 'http://127.0.0.1:9/keys' })).toEqual([
      expect.stringContaining('http://127.0.0.1:9/keys can not be had'),
    ]);
  });

  test('says who the visitor is: roles as a list or as words, and the claims that are asked for', async () => {
    expect(
      await who(
        { uid: 'kim', scope: 'crew warden', groups: ['g', 7], age: 33, secret: 's' },
        { claims: { id: 'uid', roles: 'scope', attributes: ['age', 'none'] } },
      ),
    ).toMatchObject({
      guest: false,
      id: 'kim',
      roles: ['crew', 'warden'],
      groups: ['g'],
      attributes: { age: 33 },
      summary: 'crew, warden, in g',
    });
  });

  test('is checked with keys from where the settings say, and from nowhere that leads to', async () => {
    const jwks = readFileSync(keys);
    const inside = createServer((_, response) => response.end(jwks)).listen(0, '127.0.0.1');
    const outside = createServer((request, response) => {
      if (request.url === '/keys') response.end(jwks);
      else response.writeHead(302, { Location: at(inside) }).end();
    }).listen(0, '127.0.0.1');
    const at = (server: Server): string =>
      `http://127.0.0.1:${(server.address() as AddressInfo).port}/`;
    await Promise.all([once(inside, 'listening'), once(outside, 'listening')]);
    expect((await who({ sub: 'kim' }, { keys: `${at(outside)}keys` })).guest).toBe(false);
    expect((await who({ sub: 'kim' }, { keys: `${at(outside)}moved` })).guest).toBe(true);
    inside.close();
    outside.close();
  });

  test('of another issuer, for another audience, without an end or a name is a guest’s', async () => {
    const guests = await Promise.all([
      who({ sub: 'kim', iss: 'other' }, { issuer: 'login' }),
      who({ sub: 'kim', aud: 'other' }, { audience: 'site' }),
      who({ sub: 'kim' }, {}, null),
      who({ sub: 'kim' }, {}, '-1s'),
      who({ sub: '' }),
      who({}),
    ]);
    expect(guests.map(({ guest }) => guest)).toEqual(Array(6).fill(true));
    expect((await who({ sub: 'kim', iss: 'login' }, { issuer: 'login' })).guest).toBe(false);
  });
});

describe('what the website is told of a visitor', () => {
  const visitor = {
    guest: false,
    id: 'kim',
    roles: ['crew'],
    groups: [],
  } as unknown as model.Visitor;
  const NOW = Date.UTC(2026, 10, 23);

  test('is signed with a key that is made once and is not for others to read', async () => {
    const first = await visitorProof(folder, silent);
    const again = await visitorProof(folder, silent);
    expect(again.keys).toEqual(first.keys);
    expect(JSON.stringify(first.keys)).not.toContain('"d"');
    const file = join(folder, 'gateway-key.json');
    expect(statSync(file).mode & 0o077).toBe(0);
    expect(readFileSync(file, 'utf8')).toContain('"d"');
  });

  test('is said again for a while, and anew for someone else, for another site, and in time', async () => {
    const proof = await visitorProof(folder, silent);
    const names = { roles: { crew: 'Crew' }, groups: {} };
    const first = await proof.of(visitor, names, 'https://a.example', NOW);
    expect(await proof.of(visitor, names, 'https://a.example', NOW + 30_000)).toBe(first);
    const others = await Promise.all([
      proof.of(visitor, names, 'https://b.example', NOW),
      proof.of({ ...visitor, roles: [] }, names, 'https://a.example', NOW),
      proof.of(visitor, names, 'https://a.example', NOW + 61_000),
    ]);
    expect(new Set([first, ...others]).size).toBe(4);
    expect(await proof.of({ ...visitor, guest: true }, names, 'https://a.example', NOW)).toBeNull();
  });
});

test('a website is told the roles and groups that its site file names, however many a provider sends', async () => {
  let lines = 0;
  const proof = await visitorProof(folder, { warn: () => lines++ });
  const groups = Array.from({ length: 400 }, (_, i) => `group-${i}`);
  const visitor = { guest: false, id: 'kim', roles: ['crew', 'x'], groups };
  const site = { roles: { crew: 'Crew' }, groups: { 'group-7': '' } };
  const tell = (now: number): Promise<string | null> =>
    proof.of(visitor as unknown as model.Visitor, site, 'https://a.example', now);
  const token = (await tell(0))!;
  expect(JSON.parse(Buffer.from(token.split('.')[1]!, 'base64url').toString())).toMatchObject({
    roles: ['crew'],
    groups: ['group-7'],
  });
  await tell(61_000);
  expect([token.length < 500, lines]).toEqual([true, 2]);
});

test('settings say what holds where nothing is said', () => {
  const file = join(folder, 'settings.yaml');
  writeFileSync(file, 'gateways: [{ site: s, port: 80, origin: "http://o:1" }]');
  expect(readSettings(file).gateways).toMatchObject([
    { site: 's', host: '127.0.0.1', port: 80, origin: 'http://o:1', 'origin-timeout': 30 },
  ]);
  writeFileSync(file, '');
  expect(readSettings(file).gateways).toEqual([]);
});

test.each([
  'Forwarded',
  'X-Forwarded-For',
  'Cookie',
  'Host',
  'Connection',
  'Kleidon-Visitor',
  'X_User',
])('the header %s is not for settings to allow', (name) => {
  const file = join(folder, 'settings.yaml');
  const header = `allowed-request-headers: [${name}]`;
  writeFileSync(file, `gateways: [{ site: s, port: 80, origin: "http://o:1", ${header} }]`);
  expect(() => readSettings(file)).toThrow('"allowed-request-headers" has names');
});

test.each([
  ['client: c', '3:5: "provider" of a sign-in is missing'],
  ['provider: http://login.example, client: c', '3:17: "provider" is an address with https:'],
  [
    'provider: https://l.example, client: c, test-provider: maybe',
    '"test-provider" is "yes" or "no".',
  ],
  ['provider: https://l.example, client: c, lasts: 0', '"lasts" is a number of hours.'],
  ['provider: https://l.example, client: c, idle: 9000', '"idle" is at most 2160 hours.'],
  [
    'provider: https://l.example, client: c, stand-in: yes',
    '"stand-in" is called "test-provider" now.',
  ],
  ['provider: https://l.example, client: c, claims: { role: x }', '"role" is not a setting here.'],
  [
    'provider: https://l.example, client: c, claims: { roles: { claim: a } }',
    '"roles" of the claims needs "as"',
  ],
  [
    'provider: https://l.example, client: c, claims: { groups: { as: { a: b } } }',
    '"groups" of the claims needs "claim"',
  ],
])('a sign-in of %j is refused, with its place: %s', (text, message) => {
  const file = join(folder, 'sign-in.yaml');
  writeFileSync(
    file,
    `gateways:\n  - { site: s, port: 80, origin: 'http://o:1', sign-in:\n    { ${text} } }\n`,
  );
  expect(() => readSettings(file)).toThrow(message);
  expect(() => readSettings(file)).toThrow(`${file}:`);
});

test('a sign-in has its usual times, and its claims as they are written', () => {
  const file = join(folder, 'sign-in.yaml');
  writeFileSync(
    file,
    `gateways:
  - site: s
    port: 80
    origin: http://o:1
    sign-in:
      provider: http://127.0.0.1:9
      client: c
      test-provider: yes
      claims: { roles: { claim: realm.roles, as: { theirs: ours } }, attributes: [age] }
`,
  );
  expect(readSettings(file).gateways[0]).toMatchObject({
    'retention-days': 90,
    'sign-in': {
      scope: 'openid profile email',
      lasts: 12,
      idle: 2,
      'test-provider': 'yes',
      claims: { roles: { claim: 'realm.roles', as: { theirs: 'ours' } }, attributes: ['age'] },
    },
  });
});
