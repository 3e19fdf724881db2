import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { createClient, type Client, type StandingPurchase } from '@kleidon/client';
import { call, called, operations } from './described.ts';
import { run, temporaryFolder, type Running } from './running.ts';
import { secret, tell } from './shop.ts';

const DAY = 86_400_000;
const day = (days: number): string => new Date(Date.now() + days * DAY).toISOString();
const FILE = `kleidon: 1
site: { name: Own, address: https://own.example, time-zone: Europe/London }
products:
  map: { title: Map, term: subscription, grace: 3d }
  course: { title: Course }
pages: { /: Home }
`;
const purchases = '/api/sites/own/purchases';

describe('purchases', () => {
  const folder = temporaryFolder();
  let service: Running;
  let client: Client;
  const calls = (path: string, init?: RequestInit): Promise<Response> =>
    call(service.address, path, init);
  const json = (method: string, body: unknown): RequestInit => ({
    method,
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(body),
  });
  const sale = async (purchase: string, data: Record<string, unknown>): Promise<void> => {
    const { made, ...rest } = { made: -10, ...data };
    const told = {
      type: 'purchase.made',
      timestamp: day(made),
      data: { purchase, product: 'map', email: `${purchase}@x.example`, ...rest },
    };
    expect((await tell(service.address, told)).status).toBe(202);
  };
  const then = async (purchase: string, type: string, data = {}): Promise<void> => {
    const response = await tell(service.address, { type, data: { purchase, ...data } });
    expect(response.status).toBe(202);
  };
  const of = async (query: string): Promise<StandingPurchase[]> => {
    const response = await calls(`${purchases}?${query}`);
    return ((await response.json()) as { purchases: StandingPurchase[] }).purchases;
  };

  beforeAll(async () => {
    const settings = join(folder.path, 'kleidon.yaml');
    writeFileSync(settings, `shops: [{ name: hut, site: own, secret: ${secret} }]\n`);
    service = await run(join(folder.path, 'data'), '--settings', settings, '--log-level', 'silent');
    client = createClient(service.address);
    await client.addSite(FILE, 'own');
    await sale('running', { until: day(25) });
    await sale('grace', { until: day(-1) });
    await sale('over', { until: day(-5) });
    await sale('ends', { until: day(5) });
    await then('ends', 'purchase.cancelled');
    await sale('paused', {});
    await then('paused', 'purchase.paused');
    await sale('back', { product: 'course' });
    await then('back', 'purchase.refunded');
    await sale('soon', { from: day(3) });
    await sale('other', { product: 'mpa' });
    await then('never', 'purchase.paused');
  });
  afterAll(async () => {
    await service.end();
    folder.remove();
  });

  test('are counted by product, over time and by when they end', async () => {
    const response = await calls('/api/sites/own/purchase-summary');
    const summary = (await response.json()) as Awaited<ReturnType<Client['purchaseSummary']>>;
    const [course, map, mpa] = summary.products;
    expect(map).toMatchObject({
      ...{ product: 'map', title: 'Map', inForce: 3, inGrace: 1, notRenewed: 1 },
      ...{ paused: 1, refunded: 0, lapsed: 1, upcoming: 1 },
    });
    expect(course).toMatchObject({ product: 'course', refunded: 1, inForce: 0 });
    expect(mpa).toMatchObject({ product: 'mpa', title: null, inForce: 1 });
    // Two periods end in the next 90 days: one in the first ten, and one in the third ten.
    expect(map!.ending).toEqual([1, 0, 1, 0, 0, 0, 0, 0, 0]);
    expect(map!.inForceAt).toHaveLength(25);
    expect(map!.inForceAt[0]).toBe(0);
    // In a year, what has no end and was neither paused nor refunded is left.
    expect(map!.inForceAt[24]).toBe(1);
    expect(summary.pending).toMatchObject({
      products: [{ product: 'mpa', count: 1 }],
      withoutPurchase: { found: 1, first: [{ purchase: 'never', type: 'purchase.paused' }] },
    });
    // As they stood before they were made, there were none.
    const before = await calls(`/api/sites/own/purchase-summary?at=${day(-30)}`);
    const { products } = (await before.json()) as typeof summary;
    expect(products.map(({ inForce }) => inForce)).toEqual([0, 0, 0]);
  });

  test('are listed by product and state, some of them at a time', async () => {
    const list = async (query: string) =>
      (await (await calls(`/api/sites/own/purchase-list?${query}`)).json()) as Awaited<
        ReturnType<Client['purchaseList']>
      >;
    const first = await list('product=map&limit=2');
    expect(first.purchases.map(({ purchase }) => purchase)).toEqual(['ends', 'grace']);
    const rest = await list(`product=map&after=${first.next}`);
    expect(rest.purchases.map(({ purchase }) => purchase)).toEqual([
      ...['over', 'paused', 'running', 'soon'],
    ]);
    expect(rest.next).toBeNull();
    expect((await list('state=lapsed')).purchases).toMatchObject([{ purchase: 'over' }]);
    expect((await calls('/api/sites/own/purchase-list?after=x')).status).toBe(400);
  });

  test('are found by an order, with all else of its buyer', async () => {
    await sale('second', { product: 'course', email: 'running@x.example' });
    const found = await of('order=second');
    expect(found.map(({ purchase }) => purchase)).toEqual(['running', 'second']);
    expect(await of('order=nothing')).toEqual([]);
  });

  test('access is granted by hand, and ended', async () => {
    const grant = { product: 'map', email: 'Vik@x.example', until: '2099-01-01', note: 'Helps.' };
    const response = await calls(purchases, json('POST', grant));
    expect(response.status).toBe(201);
    const { purchase } = (await response.json()) as StandingPurchase;
    expect(await of('email=vik@x.example')).toMatchObject([
      { shop: 'by-hand', state: 'in-force', events: [{ note: 'Helps.' }] },
    ]);
    const end = await calls(`${purchases}/${purchase}?note=Done`, { method: 'DELETE' });
    expect(end.status).toBe(204);
    // At once, and not after the grace of the product.
    expect(await of('email=vik@x.example')).toMatchObject([
      { cancelled: true, state: 'lapsed', events: [{}, { note: 'Done' }] },
    ]);
    // What a shop sold, the shop ends.
    expect((await calls(`${purchases}/running`, { method: 'DELETE' })).status).toBe(404);
  });

  test.each<[string, object, number]>([
    ['a product that is not there', { product: 'mpa', email: 'a@x.example', note: 'x' }, 404],
    ['nobody', { product: 'map', note: 'x' }, 400],
    ['no reason', { product: 'map', email: 'a@x.example' }, 400],
    ['no date', { product: 'map', email: 'a@x.example', note: 'x', until: 'soon' }, 400],
    ['a past', { product: 'map', email: 'a@x.example', note: 'x', until: '2020-01-01' }, 400],
  ])('a grant to %s is refused', async (_, grant, status) => {
    expect((await calls(purchases, json('POST', grant))).status).toBe(status);
  });

  test('a second address counts like the first, both ways, until the link ends; a third one does not', async () => {
    const link = (email: string, other: string): Promise<Response> =>
      calls('/api/sites/own/buyers/links', json('POST', { email, other, note: 'Asked.' }));
    await sale('linked', { email: 'one@x.example' });
    expect((await link('one@x.example', 'Two@x.example')).status).toBe(204);
    await link('two@x.example', 'three@x.example');
    for (const address of ['one', 'two'])
      expect(await of(`email=${address}@x.example`)).toMatchObject([{ purchase: 'linked' }]);
    expect(await of('email=three@x.example')).toEqual([]);
    expect(await of(`email=two@x.example&at=${day(-1)}`)).toEqual([]);
    expect((await link('one@x.example', 'ONE@x.example')).status).toBe(400);
    const ending = { email: 'one@x.example', other: 'two@x.example', note: 'Left.' };
    const ended = await calls('/api/sites/own/buyers/links', json('DELETE', ending));
    expect(ended.status).toBe(204);
    expect(await of('email=two@x.example')).toEqual([]);
    expect(await of('email=one@x.example')).toHaveLength(1);
  });

  test('an erased name leaves everything before, and the other names of the same purchases stay', async () => {
    await sale('first', { email: 'zelda@x.example' });
    await then('first', 'purchase.renewed', { until: day(9), visitor: 'zelda-7' });
    await sale('other-one', { email: 'zelda@x.example' });
    for (const email of ['Zelda@x.example', 'anzelda@x.example', 'zel\\u0064a@x.example'])
      await tell(
        service.address,
        `{"type":"purchase.sold","timestamp":"2026-11-26T09:00:00Z","data":{"purchase":"x","email":"${email}"}}`,
      );
    const erase = async (query: string): Promise<unknown> =>
      (await calls(`/api/sites/own/buyers?${query}`, { method: 'DELETE' })).json();
    const zelda = { email: 'zelda@x.example', visitor: null };
    expect(await erase('visitor=zelda-7')).toEqual({ events: 1, others: [zelda] });
    expect(await of('visitor=zelda-7')).toEqual([]);
    expect(await of('email=zelda@x.example')).toHaveLength(2);
    expect(await erase('email=Zelda@x.example')).toEqual({ events: 2, others: [] });
    const events = await (await calls('/api/sites/own/shop-events?limit=1000')).text();
    expect(events.match(/.{2}zelda@x/gi)).toEqual(['anzelda@x']);
    expect(events).not.toContain('zelda-7');
    expect(events).toContain('other-one');
    const summary = await client.purchaseSummary('own');
    expect(summary.products.find(({ product }) => product === 'map')!.inForce).toBeGreaterThan(4);
    expect((await calls('/api/sites/own/buyers', { method: 'DELETE' })).status).toBe(400);
  });

  test('an erasure is for what was before it, and counts once', async () => {
    const erasing = {
      type: 'buyer.erased',
      timestamp: day(-2),
      data: { email: 'again@x.example' },
    };
    await sale('paid', { email: 'again@x.example', made: -1 });
    await tell(service.address, erasing, { id: 'erasing' });
    expect(await of('email=again@x.example')).toHaveLength(1);
    const repeated = await tell(service.address, erasing, { id: 'erasing' });
    expect(await repeated.json()).toEqual({ id: 'erasing', result: 'known' });
    expect(await of('email=again@x.example')).toHaveLength(1);
  });

  test('what is bought with an address after it was left stays with it', async () => {
    await sale('moving', { email: 'here@x.example', visitor: 'mover' });
    const moved = { formerEmail: 'here@x.example', email: 'there@x.example' };
    await tell(service.address, {
      type: 'buyer.moved',
      timestamp: day(-2),
      data: { ...moved, purchase: 'not-of-it' },
    });
    await sale('later', { email: 'here@x.example', made: -1 });
    expect(await of('email=there@x.example')).toMatchObject([{ purchase: 'moving' }]);
    expect(await of('email=here@x.example')).toMatchObject([{ purchase: 'later' }]);
    expect(await of('visitor=mover')).toMatchObject([{ email: 'there@x.example' }]);
  });

  test.each([
    ['a Kelvin sign', '\u212Aim@x.example', 0],
    ['a capital of ASCII', 'KIM@x.example', 1],
    ['a dotless i', 'k\u0131m@x.example', 0],
    ['full-width letters', '\uFF4Bim@x.example', 0],
    ['a letter that takes two', 'stra\u00DFe@x.example', 0],
  ])(
    'an address with %s is another one, unless it is the same in ASCII',
    async (_, email, count) => {
      if (count === 1) await sale('kim', { email: 'kim@x.example' });
      if (email.startsWith('stra')) await sale('street', { email: 'strasse@x.example' });
      expect(await of(`email=${encodeURIComponent(email)}`)).toHaveLength(count);
    },
  );

  test.each([
    'a\u0000b@x.example',
    '\u00A0a@x.example',
    'a@x.example\uFEFF',
    'a\nb@x.example',
    'x'.repeat(321),
  ])('no buyer has the address %j', async (email) => {
    const query = `email=${encodeURIComponent(email)}`;
    expect((await calls(`${purchases}?${query}`)).status).toBe(400);
    const told = await tell(service.address, {
      type: 'purchase.made',
      data: { purchase: 'odd', product: 'map', email },
    });
    expect(told.status).toBe(400);
  });

  test('the list of a shop is compared, taken over, and written again', async () => {
    const head = 'order;item;mail;start;expires;status\n';
    const rows = [
      'o-1;map;ada@x.example;2026-01-01;2099-01-01;active',
      'o-2;course;bo@x.example;2026-01-02;;refunded',
      'o-3;map;cy@x.example;;;paused',
      'o-4;;x@x.example;;;',
      'o-5;map;;;;',
      'o-6;map;d@x.example;soon;;',
      'o-7;map;d@x.example;;;gone',
      'o-1;map;twice@x.example;;;',
    ];
    const send = async (body: string, query: string) => {
      const response = await calls(`/api/sites/own/purchase-list/import?shop=old&${query}`, {
        method: 'POST',
        headers: { 'Content-Type': 'text/csv' },
        body,
      });
      expect([response.status, await response.clone().text()]).toEqual([200, expect.any(String)]);
      return (await response.json()) as Awaited<ReturnType<Client['importPurchases']>>;
    };
    const dry = await send(head + rows.join('\n'), 'dryRun=yes');
    expect(dry).toMatchObject({ added: 0, same: 0, missingHere: { found: 3 } });
    expect(dry.refused.map(({ line, message }) => `${line}: ${message}`)).toEqual([
      '5: Its cell product is empty.',
      '6: Its cell email or visitor is empty.',
      expect.stringContaining('7: Its cell from is "soon"'),
      '8: It says "gone": write one of active, not-renewed, paused or refunded.',
      '9: It stands on line 2 already.',
    ]);
    expect(await of('email=ada@x.example')).toEqual([]);
    const three = head + rows.slice(0, 3).join('\n');
    expect((await send(three, 'dryRun=no')).added).toBe(3);
    expect(await of('email=ada@x.example')).toMatchObject([{ shop: 'old', state: 'in-force' }]);
    expect(await of('email=bo@x.example')).toMatchObject([{ state: 'refunded' }]);
    expect(await of('email=cy@x.example')).toMatchObject([{ state: 'paused' }]);
    // The same again adds nothing; what stands otherwise is told, and stays.
    expect(await send(three, 'dryRun=no')).toMatchObject({ same: 3, added: 0 });
    const changed = `${head}${rows[0]!.replace('2099', '2098')}\n${rows[2]!}`;
    expect(await send(changed, 'dryRun=no')).toMatchObject({
      same: 1,
      differing: { found: 1, first: [{ purchase: 'o-1', fields: [{ field: 'until' }] }] },
      missingThere: { found: 1, first: [{ purchase: 'o-2' }] },
    });
    const written = await calls('/api/sites/own/purchase-list', {
      headers: { Accept: 'text/csv' },
    });
    const text = await written.text();
    expect(text.split('\r\n')[0]).toBe('shop,purchase,product,email,visitor,from,until,state');
    expect(text).toContain('old,o-2,course,bo@x.example,,2026-01-02T00:00:00Z,,refunded');
    const own = text
      .split('\r\n')
      .filter((line) => /^(shop|old),/.test(line))
      .join('\r\n');
    expect(await send(own, 'dryRun=yes')).toMatchObject({ same: 3, unread: ['shop'] });
    const wrong = await calls('/api/sites/own/purchase-list/import?shop=old', {
      method: 'POST',
      headers: { 'Content-Type': 'text/csv' },
      body: 'a,b\n1,2\n',
    });
    expect([wrong.status, (await wrong.json()) as { detail: string }]).toMatchObject([
      400,
      { detail: expect.stringContaining('Line 1: No column is called purchase') as string },
    ]);
  });

  test('each call was made, and answered as described', () => {
    expect(operations('purchases').filter((one) => !called.has(one))).toEqual([]);
  });
});
