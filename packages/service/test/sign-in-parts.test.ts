import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { joinClaims, mapClaims, type Claims } from '../src/sign-in/claims.ts';
import { providerAt } from '../src/sign-in/provider.ts';
import { sessionCookie, setsOurCookie, withoutOurCookies } from '../src/sign-in/session-cookie.ts';
import { sealOf } from '../src/sign-in/sealed.ts';
import { visitorProof } from '../src/sign-in/visitor-proof.ts';
import { statSync, truncateSync } from 'node:fs';
import { join } from 'node:path';
import pino from 'pino';
import { watchAt } from '../src/gateway/watch.ts';
import { openDatabase, type Db } from '../src/store/database.ts';
import { recordStore } from '../src/store/records.ts';
import { sessionStore } from '../src/store/sessions.ts';
import { siteStore } from '../src/store/sites.ts';
import { decisions, model, siteFiles } from '@kleidon/core';
import { temporaryFolder } from './running.ts';

describe('claims', () => {
  const CLAIMS = {
    sub: 'u-1',
    name: 'Kim',
    email: 'kim@example.org',
    email_verified: true,
    roles: ['crew', 'obs-warden'],
    groups: 'one two',
    realm: { access: { roles: ['deep'] } },
    'https://login.example/roles': ['named'],
    age: 33,
    odd: { a: 1 },
    exp: 1,
  };

  test('become a visitor', () => {
    const { visitor } = mapClaims(CLAIMS, { attributes: ['age', 'odd', 'none'] }, 'UTC');
    expect(visitor).toMatchObject({
      id: 'u-1',
      title: 'Kim',
      guest: false,
      roles: ['crew', 'obs-warden'],
      groups: ['one', 'two'],
      attributes: { age: 33, email: 'kim@example.org' },
      summary: 'crew, obs-warden, in one, in two',
    });
  });

  test('have other names, stand deeper, and their values are called otherwise here', () => {
    const roles = (rule: Parameters<typeof mapClaims>[1]['roles']) =>
      mapClaims(CLAIMS, { roles: rule }, 'UTC').visitor?.roles;
    expect(roles('realm.access.roles')).toEqual(['deep']);
    expect(roles('https://login.example/roles')).toEqual(['named']);
    expect(roles({ claim: 'roles', as: { 'obs-warden': 'warden' } })).toEqual(['crew', 'warden']);
    expect(roles({ claim: 'groups', as: { one: 'x', two: 'x' } })).toEqual(['x']);
    expect(roles('constructor.name')).toEqual([]);
  });

  test.each([
    [{ email_verified: false }, undefined],
    [{ email_verified: 'true' }, undefined],
    [{ email_verified: undefined }, undefined],
    [{}, 'kim@example.org'],
  ])('an e-mail counts only where it was verified: %j', (change, email) => {
    const { visitor } = mapClaims(
      { ...CLAIMS, ...change },
      { attributes: ['age', 'email'] },
      'UTC',
    );
    expect(visitor?.attributes['email']).toBe(email);
  });

  test.each([[undefined], [''], [7], [null]])('an id that is %p names nobody', (sub) => {
    expect(mapClaims({ ...CLAIMS, sub }, {}, 'UTC').visitor).toBeNull();
  });

  test('purchases: names, or objects with dates; one whose dates can not be read is none', () => {
    const bought = [
      'course',
      { product: 'permit', from: '2026-05-01', until: 1_800_000_000 },
      { product: 'guide', refunded: true, paused: false },
      { product: 'broken', until: 'soon' },
      { until: '2026-01-01' },
      null,
    ];
    const { visitor } = mapClaims({ ...CLAIMS, bought }, {}, 'Europe/London');
    const open = { from: null, until: null, refunded: false, paused: false };
    expect(visitor?.bought).toEqual([
      { ...open, product: 'course' },
      {
        ...open,
        product: 'permit',
        from: Date.parse('2026-05-01T00:00:00+01:00'),
        until: 1_800_000_000_000,
      },
      { ...open, product: 'guide', refunded: true },
    ]);
  });

  test.each([
    [{ product: 'p', refunded: 'yes' }, 'p does not count: "refunded" is "yes"'],
    [{ product: 'p', refunded: 'true' }, 'p does not count: "refunded" is "true"'],
    [{ product: 'p', refunded: 1 }, 'p does not count: "refunded" is 1'],
    [{ product: 'p', refunded: 0 }, 'p does not count: "refunded" is 0'],
    [{ product: 'p', paused: 'yes' }, 'p does not count: "paused" is "yes"'],
    [{ product: 'p', paused: {} }, 'p does not count: "paused" is {}'],
    [{ product: 'p', until: 1_800_000_000_000 }, 'p does not count: "until" is 1800000000000'],
    [{ product: 'p', from: -1 }, 'p does not count: "from" is -1'],
    [{ product: 'p', until: true }, 'p does not count: "until" is true'],
    [{ product: 'p', until: '' }, 'p does not count: "until" is ""'],
    [{ product: ['p'] }, 'a purchase names no product'],
    [['p'], '["p"] is no purchase'],
  ])('what is not clear is not in force, and told: %j', (entry, why) => {
    const { visitor, uses } = mapClaims({ ...CLAIMS, bought: [entry] }, {}, 'UTC');
    expect(visitor?.bought).toEqual([]);
    expect(uses.find(({ claim }) => claim === 'bought')?.became).toBe(why);
  });

  test('each is told with what became of it', () => {
    const { uses } = mapClaims(CLAIMS, { attributes: ['age'], roles: 'realm.access.roles' }, 'UTC');
    const became = Object.fromEntries(uses.map((use) => [use.claim, use.became]));
    expect(became).toEqual({
      sub: 'id u-1',
      name: 'name Kim',
      email: 'visitor.email',
      email_verified: 'the e-mail counts',
      roles: null,
      groups: 'groups one, two',
      realm: 'roles deep',
      'https://login.example/roles': null,
      age: 'visitor.age',
      odd: null,
      exp: 'about the sign-in itself',
    });
  });
});

test.each<[Claims, Claims, string | undefined]>([
  [{ email: 'a@b.c' }, { email: 'x@y.z', email_verified: true }, undefined],
  [{ email: 'a@b.c', email_verified: false }, { email: 'x@y.z', email_verified: true }, undefined],
  [{ email: 'a@b.c', email_verified: true }, { email: 'x@y.z' }, 'a@b.c'],
  [{ email: 'a@b.c' }, { email: 'a@b.c', email_verified: true }, 'a@b.c'],
  [{ email_verified: true }, { email: 'x@y.z' }, undefined],
  [{}, { email: 'x@y.z', email_verified: true }, 'x@y.z'],
  [{ email: 'a@b.c' }, { email_verified: true }, undefined],
])('%j in an ID token, and %j in the user info, verify %s', (idToken, userInfo, email) => {
  const claims = joinClaims({ sub: 'u', ...idToken }, userInfo, {});
  expect(mapClaims(claims, {}, 'UTC').visitor!.attributes['email']).toBe(email);
});

test('a claim of any size, or with what cannot be shown, does not reach a session', () => {
  const long = 'x'.repeat(3_000_000);
  const claims = {
    sub: 'u',
    name: long,
    email: `${long}@b.c`,
    email_verified: true,
    roles: [long, 'crew', 'a\u0000b', ...Array.from({ length: 5000 }, (_, i) => `r${i}`)],
    bought: [...Array.from({ length: 5000 }, () => 'm'), long],
    town: long,
    towns: [long],
  };
  const { visitor } = mapClaims(claims, { attributes: ['town', 'towns'] }, 'UTC');
  expect(visitor).toMatchObject({ id: 'u', title: 'u', attributes: {} });
  expect(visitor!.roles.slice(0, 2)).toEqual(['crew', 'r0']);
  expect(JSON.stringify(visitor).length).toBeLessThan(200_000);
  for (const sub of [long, '', 'a\nb', 7, null])
    expect(mapClaims({ sub }, {}, 'UTC').visitor).toBeNull();
});

describe('an identity provider', () => {
  let metadata: Record<string, unknown> = {};
  let isDown = false;
  const server = createServer((_, response) => {
    if (isDown) response.writeHead(503).end();
    else response.setHeader('Content-Type', 'application/json').end(JSON.stringify(metadata));
  });
  let issuer = '';
  beforeAll(async () => {
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    issuer = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  });
  afterAll(() => void server.close());
  const provider = () =>
    providerAt({
      provider: issuer,
      client: 'c',
      secret: 's',
      scope: 'openid',
      lasts: 1,
      idle: 1,
      'test-provider': 'no',
    });
  const at = (authorization_endpoint: string) => ({
    issuer,
    authorization_endpoint,
    token_endpoint: `${issuer}/token`,
    jwks_uri: `${issuer}/keys`,
  });

  test.each(['javascript:alert(1)', 'data:text/html,x', 'file:///etc/passwd', 'nonsense'])(
    'does not send a browser to %s',
    async (address) => {
      metadata = at(address);
      await expect(provider().begin('http://here', null)).rejects.toThrow(
        'has no safe "authorization_endpoint"',
      );
    },
  );

  test('is asked again for its metadata after an hour, and keeps what it said while it is away', async () => {
    const { now } = Date;
    metadata = at(`${issuer}/one`);
    const one = provider();
    const goesTo = async () => new URL((await one.begin('http://here', null)).location).pathname;
    expect(await goesTo()).toBe('/one');
    metadata = at(`${issuer}/two`);
    expect(await goesTo()).toBe('/one');
    Date.now = () => now() + 3_600_001;
    isDown = true;
    expect(await goesTo()).toBe('/one');
    isDown = false;
    expect(await goesTo()).toBe('/two');
    Date.now = now;
  });
});

describe('the cookies of the gateway', () => {
  test('are for HTTPS alone where the site is on it, and bound to its host', () => {
    const given = sessionCookie('https://gate.example').give('s');
    expect(given).toBe('__Host-kleidon-session=s; Path=/; HttpOnly; Secure; SameSite=Lax');
    const way = sessionCookie('https://gate.example').setLoginStateCookie(
      'abcdefghijklmnop',
      'x',
      600,
    );
    expect(way).toBe(
      '__Host-kleidon-way-abcdefghijkl=x; Max-Age=600; Path=/; HttpOnly; Secure; SameSite=Lax',
    );
    expect(sessionCookie('http://127.0.0.1:1').give('s')).toBe(
      'kleidon-session=s; Path=/; HttpOnly; SameSite=Lax',
    );
  });

  test('one for HTTP is worth nothing on HTTPS', () => {
    const { secretIn } = sessionCookie('https://gate.example');
    expect(secretIn('kleidon-session=a')).toBeNull();
    expect(secretIn('__Host-kleidon-session=a')).toBe('a');
    expect(secretIn('x__Host-kleidon-session=a')).toBeNull();
    expect(secretIn('__Host-kleidon-session=a; __Host-kleidon-session=b')).toBeNull();
    expect(secretIn('__Host-kleidon-session=a; __Host-kleidon-session=a')).toBe('a');
  });

  test.each([
    ['a=1; kleidon-session=s; b=2', 'a=1; b=2'],
    ['kleidon-session=s', null],
    ['__Host-kleidon-session=s; KLEIDON-way-x=1; __Secure-kleidon-way-y=2', null],
    ['mykleidon-x=1', 'mykleidon-x=1'],
    ['a=kleidon-session=s', 'a=kleidon-session=s'],
  ])('of %j the website sees %j', (sent, seen) => {
    expect(withoutOurCookies(sent)).toBe(seen);
  });

  test('the website can set none of them', () => {
    expect(setsOurCookie('kleidon-session=x; Path=/')).toBe(true);
    expect(setsOurCookie(' __Host-Kleidon-session=x')).toBe(true);
    expect(setsOurCookie('basket=kleidon-session')).toBe(false);
  });

  test('of sign-ins that were begun and left, not more than a few are kept', () => {
    const { clearOldLoginStates } = sessionCookie('http://127.0.0.1:1');
    const ways = (count: number) =>
      Array.from({ length: count }, (_, i) => `kleidon-way-${i}=x`).join('; ');
    expect(clearOldLoginStates(ways(4))).toEqual([]);
    expect(clearOldLoginStates(`a=1; ${ways(5)}`)).toHaveLength(5);
    expect(clearOldLoginStates(ways(5))[0]).toContain('Max-Age=0');
  });
});

describe('what is sealed', () => {
  const folder = temporaryFolder();
  afterAll(() => folder.remove());

  test('opens again with the same key, after a restart too', async () => {
    const sealed = await sealOf(folder.path).close({ to: '/crew' }, 'sign-in a', 60);
    expect(await sealOf(folder.path).open(sealed, 'sign-in a')).toMatchObject({ to: '/crew' });
    expect(Buffer.from(sealed.split('.')[3]!, 'base64url').toString()).not.toContain('crew');
  });

  test('does not once it has run out, was changed, or is of another service', async () => {
    const seal = sealOf(folder.path);
    const sealed = await seal.close({ to: '/crew' }, 'sign-in a', 60);
    const other = temporaryFolder();
    expect(await seal.open(await seal.close({}, 'x', -1), 'x')).toBeNull();
    const changed = sealed.replace(/[^.](?=[^.]{5}$)/, (one) => (one === 'A' ? 'B' : 'A'));
    expect(await seal.open(changed, 'sign-in a')).toBeNull();
    expect(await seal.open(sealed, 'sign-in b')).toBeNull();
    expect(await sealOf(other.path).open(sealed, 'sign-in a')).toBeNull();
    expect(await seal.open('', 'sign-in a')).toBeNull();
    other.remove();
  });

  test('a key that is cut off is told before anyone needs it', async () => {
    const other = temporaryFolder();
    sealOf(other.path);
    await visitorProof(other.path, { warn: () => undefined });
    for (const name of ['sign-in-key', 'gateway-key.json']) {
      const file = join(other.path, name);
      expect(statSync(file).mode & 0o077).toBe(0);
      truncateSync(file, 20);
    }
    expect(() => sealOf(other.path)).toThrow(
      /sign-in-key holds no key: it has 20 bytes.*remove it/,
    );
    await expect(visitorProof(other.path, { warn: () => undefined })).rejects.toThrow(
      /gateway-key.json holds no key/,
    );
    other.remove();
  });
});

describe('what was not found', () => {
  test('is kept up to a limit, whatever comes between two writings', () => {
    const apart = temporaryFolder();
    const db = openDatabase(apart.path);
    siteStore(db).add('one', 'x', { name: null, errors: 0, packed: new Uint8Array() }, new Date(0));
    const records = recordStore(db);
    const asked = new Map([['/asked-twice', { count: 2, first: 0, last: 0, referrer: null }]]);
    records.add('one', { misses: asked, uses: new Map(), traffic: new Map() });
    for (let batch = 0; batch < 6; batch++) {
      const misses = new Map(
        Array.from({ length: 5000 }, (_, i) => [
          `/${batch}/${i}`,
          { count: 1, first: batch, last: batch, referrer: null },
        ]),
      );
      records.add('one', { misses, uses: new Map(), traffic: new Map() });
      expect(records.misses('one', 'count', 0, 1, '').found).toBeLessThanOrEqual(20_000);
    }
    // The latest are those that are kept, and what was asked for more than once.
    expect(records.misses('one', 'last', 0, 1, '').rows[0]?.address).toMatch(/^\/5\//);
    expect(records.misses('one', 'count', 0, 1, '').rows[0]?.address).toBe('/asked-twice');
    db.close();
    apart.remove();
  });

  /** A watch at a gateway, with the records that it writes. */
  const watching = (now: () => number) => {
    const apart = temporaryFolder();
    const db = openDatabase(apart.path);
    siteStore(db).add('one', 'x', { name: null, errors: 0, packed: new Uint8Array() }, new Date(0));
    const records = recordStore(db);
    const watch = watchAt({
      site: 'one',
      records,
      retentionDays: 90,
      home: () => 'https://one.example',
      now,
      log: pino({ level: 'silent' }),
    });
    const end = (): void => {
      db.close();
      apart.remove();
    };
    return { records, watch, end };
  };

  test('one client adds few addresses in an hour, and keeps no other from adding theirs', () => {
    let now = Date.UTC(2026, 10, 23);
    const { records, watch, end } = watching(() => now);
    for (let i = 0; i < 3000; i++) watch.missed(`/made-up/${i}`, undefined, '192.0.2.1');
    watch.missed('/jurnal', 'https://other.example/links', '192.0.2.2');
    watch.missed('/jurnal', 'https://made-up.example/', '192.0.2.1');
    now += 2 * 3_600_000;
    watch.missed('/an-hour-later', undefined, '192.0.2.1');
    watch.close();
    const found = (search: string): number => records.misses('one', 'count', 0, 1, search).found;
    expect([found('made-up'), found('/jurnal'), found('/an-hour-later')]).toEqual([500, 1, 1]);
    expect(records.misses('one', 'count', 0, 1, '/jurnal').rows[0]).toMatchObject({
      count: 2,
      referrer: 'https://other.example',
    });
    end();
  });

  test('one client keeps no other from having redirects counted', () => {
    const redirects = Array.from({ length: 6000 }, (_, i) => `  - { from: /old/${i}, to: / }\n`);
    const read = siteFiles.readSite(
      `kleidon: 1\nsite: { name: One, address: https://one.example }\npages: { /: Home }\nredirects:\n${redirects.join('')}`,
      'one.site.yaml',
      () => null,
    );
    if (!read.ok) throw new Error('The site has errors.');
    const prepared = decisions.prepareSite(read.site);
    const { records, watch, end } = watching(() => 0);
    const ask = (i: number, client: string): void => {
      const request = { method: 'GET', address: `/old/${i}` };
      watch.decided(prepared, decisions.decide(prepared, request, model.GUEST, 0), client);
    };
    for (let i = 0; i < 5990; i++) ask(i, '192.0.2.1');
    ask(5995, '192.0.2.2');
    watch.close();
    const used = records.uses('one').map(({ redirect }) => redirect);
    expect(used).toHaveLength(501);
    expect(used).toContain('/old/5995');
    end();
  });
});

describe('sessions', () => {
  const folder = temporaryFolder();
  let db: Db;
  const NOW = Date.UTC(2026, 10, 23);
  const MINUTE = 60_000;
  const times = { lifetime: 12 * 60 * MINUTE, idle: 60 * MINUTE };
  const vik = { id: 'vik', title: 'Vik', summary: 'volunteer' } as model.Visitor;

  beforeAll(() => {
    db = openDatabase(folder.path);
    siteStore(db).add(
      'one',
      'x',
      { name: null, errors: 0, packed: new Uint8Array() },
      new Date(NOW),
    );
    siteStore(db).add(
      'two',
      'x',
      { name: null, errors: 0, packed: new Uint8Array() },
      new Date(NOW),
    );
  });
  afterAll(() => {
    db.close();
    folder.remove();
  });

  const begin = (site = 'one', before: string | null = null): string =>
    sessionStore(db).begin(site, { visitor: vik, idToken: 't' }, times, NOW, before);

  test('are found by their secret at their own site, and only its hash is kept', () => {
    const secret = begin();
    const store = sessionStore(db);
    expect(store.find('one', secret, times, NOW)).toEqual({ visitor: vik, idToken: 't' });
    expect(store.find('two', secret, times, NOW)).toBeNull();
    const rows = JSON.stringify(db.prepare('select * from session').all());
    expect(rows).not.toContain(secret);
  });

  test('end without a request for a while, and in any case after the longest', () => {
    const store = sessionStore(db);
    const [idle, used] = [begin(), begin()];
    let at = NOW;
    for (let i = 0; i < 15; i++) {
      at += 50 * MINUTE;
      const isOver = at >= NOW + times.lifetime;
      expect(store.find('one', used, times, at) === null).toBe(isOver);
    }
    expect(store.find('one', idle, times, NOW + 61 * MINUTE)).toBeNull();
  });

  test('those that are over are forgotten with the next that begins', () => {
    const count = () => (db.prepare('select count(*) as n from session').get() as { n: number }).n;
    begin();
    const late = NOW + 13 * 60 * MINUTE;
    sessionStore(db).begin('one', { visitor: vik, idToken: 't' }, times, late, null);
    expect(count()).toBe(1);
  });

  test('a new one takes the place of the one before', () => {
    const store = sessionStore(db);
    const first = begin();
    const second = begin('one', first);
    expect(store.find('one', first, times, NOW)).toBeNull();
    expect(store.find('one', second, times, NOW)).not.toBeNull();
    expect(store.endAll('one', 'vik')).toBeGreaterThan(0);
    expect(store.count('one', times, NOW)).toBe(0);
  });
});
