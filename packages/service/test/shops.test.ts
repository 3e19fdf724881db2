import { setTimeout as wait } from 'node:timers/promises';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Message } from '@kleidon/api';
import { createClient } from '@kleidon/client';
import { model } from '@kleidon/core';
import { readSettings } from '../src/settings/settings.ts';
import { openDatabase } from '../src/store/database.ts';
import { ledgerStore } from '../src/store/ledger.ts';
import { agent, type Agent } from './agent.ts';
import { call, validate } from './described.ts';
import { run, temporaryFolder } from './running.ts';
import { sampleSite, type SampleSite } from './sample.ts';
import { secret, secretOf, tell, type Sending, type Told } from './shop.ts';

const former = secretOf(2);
const foreign = secretOf(3);

const sale = (data: Record<string, unknown>): Told => ({
  type: 'purchase.made',
  data: { purchase: 'order-1', product: 'song-course', email: 'mia@merrowpoint.example', ...data },
});
const about = (type: string, data: Record<string, unknown> = {}): Told => ({
  type,
  data: { purchase: 'order-1', ...data },
});

/** Fails where the JSON Schema of events, by which shops write theirs, does not take one. */
function isDescribed(told: Told | string): void {
  const timestamp = new Date().toISOString();
  const text = typeof told === 'string' ? told : JSON.stringify({ timestamp, ...told });
  validate('openapi#/components/schemas/ShopEvent', JSON.parse(text));
}

describe('a shop of the sample site', () => {
  const folder = temporaryFolder();
  let site: SampleSite;
  const address = (): string => site.service().address;
  const tells = async (told: Told, sending?: Sending): Promise<unknown> => {
    isDescribed(told);
    const response = await tell(address(), told, sending);
    expect([response.status, await response.clone().text()]).toEqual([202, expect.any(String)]);
    return response.json();
  };

  beforeAll(async () => {
    site = await sampleSite(folder.path, {
      more: () => `shops: [{ name: hut, site: merrow-point, secret: [${secret}, ${former}] }]\n`,
    });
  });
  afterAll(async () => {
    await site.end();
    folder.remove();
  });

  const signedIn = async (visitor: string): Promise<Agent> => {
    const one = agent();
    await one.follow(`${site.gateway}/.kleidon/open-as?as=${visitor}&to=/`);
    return one;
  };
  /** Asks for a page until it is answered like this; gives how long that took, in milliseconds. */
  const until = async (one: Agent, path: string, is: string): Promise<number> => {
    const start = performance.now();
    for (;;) {
      const { status, location } = await one.ask(site.gateway + path);
      const answer = location === null ? String(status) : `${status} ${new URL(location).pathname}`;
      if (answer === is) return performance.now() - start;
      await wait(50);
    }
  };
  const bought = async (query: string): Promise<Message<'LedgerPurchase'>[]> => {
    const response = await call(address(), `/api/sites/merrow-point/purchases?${query}`);
    return ((await response.json()) as { purchases: Message<'LedgerPurchase'>[] }).purchases;
  };

  test('who buys reads within two seconds, and who is refunded is offered it again', async () => {
    const mia = await signedIn('mia');
    await until(mia, '/song-course/1', '303 /shop/song-course');
    await tells(sale({}));
    expect(await until(mia, '/song-course/1', '200')).toBeLessThan(2000);
    await tells(about('purchase.refunded', { partly: true }));
    await tells(about('purchase.paused'));
    expect(await until(mia, '/song-course/1', '303 /shop/song-course')).toBeLessThan(2000);
    await tells(about('purchase.resumed'));
    await until(mia, '/song-course/1', '200');
    await tells(about('purchase.refunded'));
    expect(await until(mia, '/song-course/1', '303 /shop/song-course')).toBeLessThan(2000);
    // Nobody else has anything of it, nor has a guest.
    await until(await signedIn('vik'), '/song-course/1', '303 /shop/song-course');
    expect((await agent().ask(`${site.gateway}/song-course/1`)).status).not.toBe(200);
  });

  test('a purchase says how it stood at any moment, and what made it so', async () => {
    const [now] = await bought('email=Mia@MerrowPoint.example');
    expect(now).toMatchObject({ shop: 'hut', purchase: 'order-1', refunded: true, paused: false });
    expect(now!.events.map(({ type }) => type)).toEqual([
      'purchase.made',
      'purchase.refunded',
      'purchase.paused',
      'purchase.resumed',
      'purchase.refunded',
    ]);
    const [before] = await bought(`email=mia@merrowpoint.example&at=${now!.events[0]!.at}`);
    expect(before).toMatchObject({ refunded: false });
    expect(await bought('email=vik@merrowpoint.example')).toEqual([]);
    expect((await call(address(), '/api/sites/merrow-point/purchases')).status).toBe(400);
  });

  test('one that comes again, or late, changes nothing', async () => {
    const at = '2026-01-01T00:00:00Z';
    const first = await tells({ ...sale({ purchase: 'order-2' }), timestamp: at }, { id: 'once' });
    expect(first).toEqual({ id: 'once', result: 'new' });
    const again = await tells({ ...sale({ purchase: 'order-9' }), timestamp: at }, { id: 'once' });
    expect(again).toEqual({ id: 'once', result: 'known' });
    expect(await bought('email=mia@merrowpoint.example')).toHaveLength(2);
    // What is told of a purchase before the purchase waits for it.
    await tells(about('purchase.cancelled', { purchase: 'order-3', visitor: 'wren' }));
    expect(await bought('visitor=wren')).toEqual([]);
    await tells({
      ...sale({ purchase: 'order-3', product: 'not-sold-here', email: 'wren@merrowpoint.example' }),
      timestamp: at,
    });
    expect(await bought('visitor=wren')).toMatchObject([
      { product: 'not-sold-here', cancelled: true, visitor: 'wren' },
    ]);
  });

  test('a buyer who moves keeps what they bought, and one who is erased is nobody', async () => {
    await tells(sale({ purchase: 'order-4', email: 'old@x.example' }));
    await tells(
      about('buyer.moved', {
        purchase: undefined,
        formerEmail: 'old@x.example',
        email: 'tomas@merrowpoint.example',
      }),
    );
    const tomas = await signedIn('tomas');
    await until(tomas, '/song-course/1', '200');
    expect(await bought('email=old@x.example')).toEqual([]);
    await tells(about('buyer.erased', { purchase: undefined, email: 'tomas@merrowpoint.example' }));
    await until(tomas, '/song-course/1', '303 /shop/song-course');
    expect(await bought('email=tomas@merrowpoint.example')).toEqual([]);
    const told = await call(address(), '/api/sites/merrow-point/shop-events?limit=1000');
    const text = await told.text();
    expect(text).toContain('order-4');
    expect(text).not.toMatch(/old@x\\.example|tomas@/);
  });

  test.each<[string, Sending]>([
    ['by nobody whom it knows', { by: foreign }],
    ['and changed on the way', { body: JSON.stringify(sale({ email: 'eve@x.example' })) }],
    ['too long ago', { at: new Date(Date.now() - 6 * 60_000) }],
    ['too far ahead', { at: new Date(Date.now() + 6 * 60_000) }],
    ['for another id', { headers: { 'webhook-id': 'another' } }],
    ['for another time', { headers: { 'webhook-timestamp': '1' } }],
    ['without a signature', { headers: { 'webhook-signature': '' } }],
    ['with nonsense', { headers: { 'webhook-signature': 'v1,x v2,y ,,, v1' } }],
    ['with no time', { headers: { 'webhook-timestamp': 'soon' } }],
  ])('an event that is signed %s is refused', async (_, sending) => {
    const response = await tell(address(), sale({ email: 'eve@x.example' }), sending);
    expect([response.status, await response.json()]).toEqual([
      401,
      expect.objectContaining({ type: '/api/problems/not-signed' }),
    ]);
    expect(await bought('email=eve@x.example')).toEqual([]);
  });

  test('the operator is told why events are refused, and whoever sends them is not', async () => {
    const events = await call(address(), '/api/sites/merrow-point/shop-events');
    const { refused } = (await events.json()) as { refused: { shop: string; reason: string }[] };
    expect(refused.map(({ shop, reason }) => `${shop} ${reason}`).sort()).toEqual([
      'hut no-signature',
      'hut wrong-clock',
      'hut wrong-secret',
    ]);
    const lines = site
      .service()
      .log()
      .match(/"reason":"wrong-clock".*"shop event refused"/g);
    expect(lines).toHaveLength(1);
  });

  test('a body is not read before its signature is known to be right', async () => {
    const large = { method: 'POST', body: 'x'.repeat(100_000) };
    for (const type of ['application/yaml', 'application/json-patch+json', 'application/json']) {
      const headers = { 'Content-Type': type };
      const response = await call(address(), '/api/shops/hut/events', { ...large, headers });
      expect(response.status).toBe(413);
    }
    const malformed = await tell(address(), 'x', { by: foreign });
    expect(malformed.status).toBe(401);
    expect((await tell(address(), '{"a":', {})).status).toBe(400);
  });

  test('during a rotation both secrets count', async () => {
    await tells(sale({ purchase: 'order-5', email: 'ada@x.example' }), { by: former });
    expect(await bought('email=ada@x.example')).toHaveLength(1);
  });

  test.each<[Told | string, string]>([
    [about('purchase.made'), '"data.product" is missing'],
    [
      about('purchase.made', { product: 'song-course' }),
      '"data.email" or "data.visitor" is missing',
    ],
    [about('purchase.renewed', { purchase: undefined }), '"data.purchase" is missing'],
    [about('purchase.paused', { purchase: '' }), '"data.purchase" is missing'],
    [about('purchase.renewed'), '"data.until" is missing'],
    [about('purchase.renewed', { until: 'soon' }), 'A time is a moment such as'],
    [
      about('purchase.renewed', { until: '2026-99-99T00:00:00Z' }),
      '"data.until" is "2026-99-99T00:00:00Z": there is no such moment',
    ],
    [
      about('purchase.renewed', { until: '2027-02-29T00:00:00Z' }),
      '"data.until" is "2027-02-29T00:00:00Z": there is no such moment',
    ],
    [
      { ...about('purchase.renewed'), timestamp: '2026-02-31T99:00:00Z' },
      '"timestamp" is "2026-02-31T99:00:00Z": there is no such moment',
    ],
    [about('purchase.sold'), '"type" is one of'],
    [
      about('buyer.moved', { email: 'x@y.example' }),
      '"data.formerEmail" or "data.visitor" is missing',
    ],
    [about('purchase.renewed', { price: 12 }), 'price'],
    ['{"data":1}', 'is missing'],
  ])('an event that is signed and not understood is kept: %j', async (told, said) => {
    const response = await tell(address(), told, { id: 'broken' });
    // That a moment exists, no schema can say.
    if (!said.includes('no such moment')) expect(() => isDescribed(told)).toThrow();
    const problem = (await response.json()) as { detail: string };
    expect([response.status, problem.detail]).toEqual([400, expect.stringContaining(said)]);
    const list = await call(address(), '/api/sites/merrow-point/shop-events');
    const { rejected } = (await list.json()) as { rejected: Message<'RejectedEvent'>[] };
    expect(rejected).toMatchObject([{ shop: 'hut', id: 'broken', problem: problem.detail }]);
  });

  test('one that is understood when it comes again is rejected no more', async () => {
    await tells(about('purchase.cancelled', { purchase: 'order-8' }), { id: 'broken' });
    const list = await call(address(), '/api/sites/merrow-point/shop-events');
    expect(((await list.json()) as { rejected: unknown[] }).rejected).toEqual([]);
  });

  test('what is no JSON, too large or for nobody is refused', async () => {
    expect((await tell(address(), '{')).status).toBe(400);
    expect((await tell(address(), sale({}), { shop: 'other' })).status).toBe(404);
    const csv = { headers: { 'Content-Type': 'text/csv' } };
    expect((await tell(address(), sale({}), csv)).status).toBe(415);
    const long = { ...sale({}), timestamp: 'x'.repeat(12_000_000) };
    expect((await tell(address(), long)).status).toBe(413);
  });
});

/** Outside the suite: KLEIDON_KILLS=200, with 100 events each. */
const KILLS = Number(process.env['KLEIDON_KILLS'] ?? 4);
const TOLD = KILLS > 4 ? 100 : 300;

test('SIGKILL while events arrive from a shop that tries again: none is lost, and none counts twice', async () => {
  const folder = temporaryFolder();
  const settings = join(folder.path, 'settings.yaml');
  writeFileSync(settings, `shops: [{ name: hut, site: own, secret: ${secret} }]\n`);
  const start = () =>
    run(join(folder.path, 'data'), '--settings', settings, '--log-level', 'silent');
  let service = await start();
  await createClient(service.address).addSite(
    'kleidon: 1\nsite: { name: Own, address: https://own.example }\npages: { /: Home }\n',
    'own',
  );
  const acknowledged = new Map<string, number>();
  for (let kill = 0; kill < KILLS; kill++) {
    const { address } = service;
    const telling = Array.from({ length: TOLD }, async (_, i) => {
      const id = `e${kill}-${i}`;
      try {
        const response = await tell(
          address,
          sale({ purchase: `o${kill}-${i}`, email: 'mia@x.example' }),
          { id },
        );
        if (response.status === 202) acknowledged.set(id, 1);
        if (acknowledged.size % TOLD === (kill * 37) % TOLD) void service.end('SIGKILL');
      } catch {
        // The kill cut it off; the shop tries again.
      }
    });
    await Promise.all(telling);
    await service.end('SIGKILL');
    service = await start();
  }
  const known = async (): Promise<string[]> => {
    const told = await call(service.address, '/api/sites/own/shop-events?limit=1000');
    const { events, found } = (await told.json()) as { found: number; events: { id: string }[] };
    for (let skip = 1000; skip < found; skip += 1000) {
      const more = await call(
        service.address,
        `/api/sites/own/shop-events?limit=1000&skip=${skip}`,
      );
      events.push(...((await more.json()) as { events: { id: string }[] }).events);
    }
    return events.map(({ id }) => id);
  };
  const kept = new Set(await known());
  expect([...acknowledged.keys()].filter((id) => !kept.has(id))).toEqual([]);
  for (let kill = 0; kill < KILLS; kill++)
    await Promise.all(
      Array.from({ length: TOLD }, (_, i) =>
        tell(service.address, sale({ purchase: `o${kill}-${i}`, email: 'mia@x.example' }), {
          id: `e${kill}-${i}`,
        }),
      ),
    );
  const all = await known();
  expect([all.length, new Set(all).size]).toEqual([KILLS * TOLD, KILLS * TOLD]);
  await service.end();
  folder.remove();
});

test.each([
  ['{ name: Hut, site: x, secret: y }', '"name" of a shop has small letters'],
  ['{ name: hut, secret: y }', '"site" of a shop is missing'],
  ['{ name: hut, site: x }', '"secret" of a shop is missing'],
  ['{ name: hut, site: x, secret: short }', '"secret" of a shop is whsec_'],
  [
    `{ name: hut, site: x, secret: ${secret} }, { name: hut, site: y, secret: ${secret} }`,
    'Two shops have the same name',
  ],
])('a shop %s in the settings is refused: %s', (text, said) => {
  const folder = temporaryFolder();
  const file = join(folder.path, 'settings.yaml');
  writeFileSync(file, `shops: [${text}]\n`);
  expect(() => readSettings(file)).toThrow(said);
  folder.remove();
});

test('a shop that serves another site later loses none of its events', () => {
  const folder = temporaryFolder();
  const db = openDatabase(folder.path);
  const ledger = ledgerStore(db);
  const sale = { ...model.UNSAID, id: '1', type: 'purchase.made' as const, at: 1, purchase: 'o' };
  const event = { ...sale, product: 'map', email: 'a@x.example', receivedAt: 1 };
  for (const site of ['one', 'two']) {
    db.prepare("insert into site (id, created_at) values (?, '2026')").run(site);
    expect(ledger.add(site, 'hut', event)).toBe(true);
    expect(ledger.add(site, 'hut', event)).toBe(false);
    const buyer = { email: 'a@x.example', visitor: null };
    expect(ledger.purchasesOf(site, buyer, 2)).toHaveLength(1);
  }
  db.close();
  folder.remove();
});
