import { mapClaims } from '../src/sign-in/claims.ts';
import { sessionCookie, setsOurCookie, withoutOurCookies } from '../src/sign-in/session-cookie.ts';
import { sealOf } from '../src/sign-in/sealed.ts';
import { openDatabase, type Db } from '../src/store/database.ts';
import { sessionStore } from '../src/store/sessions.ts';
import { siteStore } from '../src/store/sites.ts';
import type { Visitor } from '@kleidon/core';
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
    const { visitor } = mapClaims({ ...CLAIMS, ...change }, { attributes: ['age'] }, 'UTC');
    expect(visitor?.attributes['email']).toBe(email);
  });

  test.each([[undefined], [''], [7], [null]])('an id that is %p names nobody', (sub) => {
    expect(mapClaims({ ...CLAIMS, sub }, {}, 'UTC').visitor).toBeNull();
  });

  test('purchases: names, or objects with dates; one whose dates can not be read is none', () => {
    const bought = [
      'course',
      { product: 'permit', from: '2026-05-01', until: 1_800_000_000 },
      { product: 'guide', refunded: true, paused: 'yes' },
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

describe('the cookies of the gateway', () => {
  test('are for HTTPS alone where the site is on it, and bound to its host', () => {
    const given = sessionCookie('https://gate.example').give('s');
    expect(given).toBe('__Host-kleidon-session=s; Path=/; HttpOnly; Secure; SameSite=Lax');
    const way = sessionCookie('https://gate.example').giveWay('abcdefghijklmnop', 'x', 600);
    expect(way).toBe(
      '__Secure-kleidon-way-abcdefghijkl=x; Max-Age=600; Path=/.kleidon/; HttpOnly; Secure; SameSite=Lax',
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
    const { takeOldWays } = sessionCookie('http://127.0.0.1:1');
    const ways = (count: number) =>
      Array.from({ length: count }, (_, i) => `kleidon-way-${i}=x`).join('; ');
    expect(takeOldWays(ways(4))).toEqual([]);
    expect(takeOldWays(`a=1; ${ways(5)}`)).toHaveLength(5);
    expect(takeOldWays(ways(5))[0]).toContain('Max-Age=0');
  });
});

describe('what is sealed', () => {
  const folder = temporaryFolder();
  afterAll(() => folder.remove());

  test('opens again with the same key, after a restart too', async () => {
    const sealed = await sealOf(folder.path).close({ to: '/crew' }, 60);
    expect(await sealOf(folder.path).open(sealed)).toMatchObject({ to: '/crew' });
    expect(Buffer.from(sealed.split('.')[3]!, 'base64url').toString()).not.toContain('crew');
  });

  test('does not once it has run out, was changed, or is of another service', async () => {
    const seal = sealOf(folder.path);
    const sealed = await seal.close({ to: '/crew' }, 60);
    const other = temporaryFolder();
    expect(await seal.open(await seal.close({}, -1))).toBeNull();
    const changed = sealed.replace(/[^.](?=[^.]{5}$)/, (one) => (one === 'A' ? 'B' : 'A'));
    expect(await seal.open(changed)).toBeNull();
    expect(await sealOf(other.path).open(sealed)).toBeNull();
    expect(await seal.open('')).toBeNull();
    other.remove();
  });
});

describe('sessions', () => {
  const folder = temporaryFolder();
  let db: Db;
  const NOW = Date.UTC(2026, 10, 23);
  const MINUTE = 60_000;
  const times = { most: 12 * 60 * MINUTE, idle: 60 * MINUTE };
  const vik = { id: 'vik', title: 'Vik', summary: 'volunteer' } as Visitor;

  beforeAll(() => {
    db = openDatabase(folder.path);
    siteStore(db).add('one', 'x', new Date(NOW));
    siteStore(db).add('two', 'x', new Date(NOW));
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
      const isOver = at >= NOW + times.most;
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
