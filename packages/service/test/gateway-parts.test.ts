import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import type { IncomingMessage } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { exportJWK, generateKeyPair, SignJWT, type CryptoKey, type JWTPayload } from 'jose';
import type { Visitor } from '@kleidon/core';
import { readAsked } from '../src/gateway/asked.ts';
import { answeredFields, forwardedBy, forwardedFields } from '../src/gateway/fields.ts';
import { ownPage, pageAsHtml } from '../src/gateway/page.ts';
import { readSettings } from '../src/settings.ts';
import { visitorsByToken } from '../src/sign-in/token.ts';
import { visitorProof } from '../src/sign-in/visitor-proof.ts';

const folder = mkdtempSync(join(tmpdir(), 'kleidon-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe('fields of a request', () => {
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
  ])('%s does not go on', (line) => {
    expect(forwardedFields([...line.split(': '), 'Accept', '*/*'])).toEqual(['Accept', '*/*']);
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
    expect(forwardedFields(fields)).toEqual(['cOOkie', 'a=1']);
    expect(forwardedFields(['A', '1', 'A', '2'])).toEqual(['A', '1', 'A', '2']);
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

  test('without any of their own, the website’s are left alone', () => {
    const fields = ['Set-Cookie', 'a=1', 'Set-Cookie', 'b=2', 'Vary', 'Accept'];
    expect(answeredFields(fields, {})).toEqual(fields);
  });
});

test.each([
  ['192.0.2.1', 'for=192.0.2.1;host="h:1";proto=https;by=_kleidon'],
  ['2001:db8::1', 'for="[2001:db8::1]";host="h:1";proto=https;by=_kleidon'],
  [undefined, 'for=unknown;host="h:1";proto=https;by=_kleidon'],
])('Forwarded for %s (RFC 7239)', (remote, expected) => {
  expect(forwardedBy(remote, 'h:1', 'https')).toBe(expected);
});

describe('what is asked for', () => {
  const homes = { reachedAt: 'here:8080', site: { protocol: 'https:', host: 'site.example' } };
  const asked = (url: string, hosts: readonly string[], method = 'GET') =>
    readAsked(
      {
        method,
        url,
        rawHeaders: hosts.flatMap((host) => ['HoSt', host]),
        headers: { host: hosts[0] },
      } as unknown as IncomingMessage,
      homes,
    );

  test.each([
    ['/a?b=1', 'here:8080', '/a?b=1'],
    ['/a', 'HERE:8080', '/a'],
    ['/a', 'www.site.example', 'https://www.site.example/a'],
    ['http://here:8080/a?b', 'here:8080', '/a?b'],
    ['http://here:8080', 'here:8080', '/'],
    ['http://other/a', 'other', 'https://other/a'],
  ])('%s at %s is %s', (url, host, address) => {
    expect(asked(url, [host])).toEqual({ method: 'GET', address });
  });

  test.each([
    ['/a', [], 'GET', 400],
    ['/a', ['here:8080', 'here:8080'], 'GET', 400],
    ['http://other/a', ['here:8080'], 'GET', 400],
    ['*', ['here:8080'], 'OPTIONS', 400],
    ['other:443', ['here:8080'], 'GET', 400],
    ['/a', ['here:8080'], 'TRACE', 405],
    ['/a', ['here:8080'], 'PROPFIND', 405],
  ])('%s for %j with %s is not looked at: %i', (url, hosts, method, status) => {
    expect(asked(url, hosts, method)).toMatchObject({ status });
  });
});

test('a page of our own escapes all that it says, and asks for nothing from elsewhere', () => {
  const html = pageAsHtml(
    ownPage(403, {
      is: 'offers',
      offers: [{ product: 'p', title: `<i>"Permit" & 'more'</i>`, buyAt: '/buy?a="b"&c' }],
    }),
  );
  expect(html).toContain(
    '<a href="/buy?a=&quot;b&quot;&amp;c">&lt;i&gt;&quot;Permit&quot; &amp; &#39;more&#39;&lt;/i&gt;</a>',
  );
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
  ): Promise<Visitor> => {
    const token = new SignJWT(claims).setProtectedHeader({ alg: 'ES256' });
    const signed = await (expires === null ? token : token.setExpirationTime(expires)).sign(key);
    const visitorOf = visitorsByToken({ header: 'Authorization', keys, ...settings });
    return visitorOf({ headers: { authorization: `Bearer ${signed}` } } as IncomingMessage, 'UTC');
  };

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
  const visitor = { guest: false, id: 'kim', roles: ['crew'], groups: [] } as unknown as Visitor;
  const NOW = Date.UTC(2026, 10, 23);

  test('is signed with a key that is made once and is not for others to read', async () => {
    const first = await visitorProof(folder);
    const again = await visitorProof(folder);
    expect(again.keys).toEqual(first.keys);
    expect(JSON.stringify(first.keys)).not.toContain('"d"');
    const file = join(folder, 'gateway-key.json');
    expect(statSync(file).mode & 0o077).toBe(0);
    expect(readFileSync(file, 'utf8')).toContain('"d"');
  });

  test('is said again for a while, and anew for someone else, for another site, and in time', async () => {
    const proof = await visitorProof(folder);
    const first = await proof.of(visitor, 'https://a.example', NOW);
    expect(await proof.of(visitor, 'https://a.example', NOW + 30_000)).toBe(first);
    const others = await Promise.all([
      proof.of(visitor, 'https://b.example', NOW),
      proof.of({ ...visitor, roles: [] }, 'https://a.example', NOW),
      proof.of(visitor, 'https://a.example', NOW + 61_000),
    ]);
    expect(new Set([first, ...others]).size).toBe(4);
    expect(await proof.of({ ...visitor, guest: true }, 'https://a.example', NOW)).toBeNull();
  });
});

test('settings say what holds where nothing is said', () => {
  const file = join(folder, 'settings.yaml');
  writeFileSync(file, 'gateways: [{ site: s, port: 80, origin: "http://o:1" }]');
  expect(readSettings(file).gateways).toMatchObject([
    { site: 's', host: '127.0.0.1', port: 80, origin: 'http://o:1', patience: 30 },
  ]);
  writeFileSync(file, '');
  expect(readSettings(file).gateways).toEqual([]);
});

test.each([
  ['client: c', '3:5: "provider" of a sign-in is missing'],
  ['provider: http://login.example, client: c', '3:17: "provider" is an address with https:'],
  ['provider: https://l.example, client: c, stand-in: maybe', '"stand-in" is "yes" or "no".'],
  ['provider: https://l.example, client: c, lasts: 0', '"lasts" is a number of hours.'],
  ['provider: https://l.example, client: c, idle: 9000', '"idle" is at most 2160 hours.'],
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
      stand-in: yes
      claims: { roles: { claim: realm.roles, as: { theirs: ours } }, attributes: [age] }
`,
  );
  expect(readSettings(file).gateways[0]).toMatchObject({
    'keep-days': 90,
    'sign-in': {
      scope: 'openid profile email',
      lasts: 12,
      idle: 2,
      'stand-in': 'yes',
      claims: { roles: { claim: 'realm.roles', as: { theirs: 'ours' } }, attributes: ['age'] },
    },
  });
});
