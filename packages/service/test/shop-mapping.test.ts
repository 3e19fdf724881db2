import { createHmac } from 'node:crypto';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { createClient, type Client } from '@kleidon/client';
import { readSettings } from '../src/settings/settings.ts';
import { call, called, operations } from './described.ts';
import { run, temporaryFolder, type Running } from './running.ts';

const SECRET = 'a secret of the stall that is long enough';
const shop = (more = ''): string => `shops:
  - name: stall
    site: own
    secret: ${SECRET}
    signature: { header: X-Stall-Signature, prefix: sha256=, time: X-Stall-Time }
    events:
      id: /id
      type: /kind
      at: /at
      purchase: /order/number
      product: /order/items/0/sku
      email: /order/customer/mail
      until: /order/paid~1until
      types: { sold: purchase.made, given-back: purchase.refunded, viewed: ignore${more} }
      products: { SKU-1: map }
  - name: kiosk
    site: own
    secret: [${SECRET}, the former secret of the kiosk]
    signature: { header: X-Kiosk-Signature, as: base64 }
    events: { type: { header: X-Kiosk-Topic }, purchase: /ref, product: /what, email: /mail, types: { order: purchase.made } }
`;
const sold = (more: object = {}, order: object = {}) => ({
  id: 17,
  kind: 'sold',
  at: Math.floor(Date.now() / 1000) - 60,
  order: {
    number: 1001,
    items: [{ sku: 'SKU-1' }],
    customer: { mail: 'Mia@x.example' },
    'paid/until': '2099-01-01',
    ...order,
  },
  ...more,
});

describe('a shop with events of its own', () => {
  const folder = temporaryFolder();
  const settings = join(folder.path, 'kleidon.yaml');
  let service: Running;
  let client: Client;
  const start = async (text: string): Promise<void> => {
    writeFileSync(settings, text);
    service = await run(join(folder.path, 'data'), '--settings', settings, '--log-level', 'silent');
    client = createClient(service.address);
  };
  beforeAll(async () => {
    await start(shop());
    await client.addSite(
      'kleidon: 1\nsite: { name: Own, address: https://own.example }\nproducts: { map: { title: Map } }\npages: { /: Home }\n',
      'own',
    );
  });
  afterAll(async () => {
    await service.end();
    folder.remove();
  });

  const tell = (
    told: unknown,
    headers: Record<string, string> | null = null,
    name = 'stall',
  ): Promise<Response> => {
    const body = JSON.stringify(told);
    const time = String(Math.floor(Date.now() / 1000));
    const signature = createHmac('sha256', SECRET).update(`${time}.${body}`).digest('hex');
    return call(service.address, `/api/shops/${name}/events`, {
      method: 'POST',
      headers: {
        'Content-Type': 'application/json',
        ...(headers ?? { 'X-Stall-Time': time, 'X-Stall-Signature': `sha256=${signature}` }),
      },
      body,
    });
  };
  const kiosk = (told: unknown, topic = 'order', secret = SECRET): Promise<Response> =>
    tell(
      told,
      {
        'X-Kiosk-Topic': topic,
        'X-Kiosk-Signature': createHmac('sha256', secret)
          .update(JSON.stringify(told))
          .digest('base64'),
      },
      'kiosk',
    );
  const bought = async (email: string) => (await client.purchases('own', { email })).purchases;

  test('is understood as the settings say', async () => {
    expect(await (await tell(sold())).json()).toEqual({ id: '17', result: 'new' });
    expect(await (await tell(sold())).json()).toEqual({ id: '17', result: 'known' });
    expect(await bought('mia@x.example')).toMatchObject([
      { purchase: '1001', product: 'map', until: '2099-01-01T00:00:00.000Z', state: 'in-force' },
    ]);
    expect(await (await tell(sold({ id: 18, kind: 'viewed' }))).json()).toMatchObject({
      result: 'ignored',
    });
    await tell(sold({ id: 19, kind: 'given-back', at: Date.now() }));
    expect(await bought('mia@x.example')).toMatchObject([{ state: 'refunded' }]);
  });

  test('that gives no id is known by what it says, and a header says of what type it is', async () => {
    const told = { ref: 'k1', what: 'map', mail: 'bo@x.example' };
    const first = (await (await kiosk(told)).json()) as { id: string; result: string };
    expect(first).toEqual({ id: expect.stringMatching(/^sha256-/) as string, result: 'new' });
    expect(await (await kiosk(told)).json()).toEqual({ ...first, result: 'known' });
    const former = { ...told, ref: 'k2' };
    const rotated = await kiosk(former, 'order', 'the former secret of the kiosk');
    expect(rotated.status).toBe(202);
    expect(await bought('bo@x.example')).toHaveLength(2);
  });

  test.each<[string, () => Promise<Response>]>([
    [
      'with another secret',
      () => kiosk({ ref: 'k9' }, 'order', 'another secret that is long enough'),
    ],
    ['not at all', () => tell(sold(), {})],
    [
      'without its time',
      () =>
        tell(sold(), {
          'X-Stall-Signature': `sha256=${createHmac('sha256', SECRET).update(JSON.stringify(sold())).digest('hex')}`,
        }),
    ],
    [
      'too long ago',
      () => {
        const time = String(Math.floor(Date.now() / 1000) - 400);
        const text = `${time}.${JSON.stringify(sold())}`;
        return tell(sold(), {
          'X-Stall-Time': time,
          'X-Stall-Signature': `sha256=${createHmac('sha256', SECRET).update(text).digest('hex')}`,
        });
      },
    ],
    [
      'in part',
      () =>
        tell(sold(), {
          'X-Stall-Time': String(Math.floor(Date.now() / 1000)),
          'X-Stall-Signature': 'sha256=ab',
        }),
    ],
  ])('what is signed %s is refused', async (_, telling) => {
    expect((await telling()).status).toBe(401);
  });

  test('what is not understood says where it was looked for, and is applied once the settings are right', async () => {
    const lost = await tell(sold({ id: 30 }, { number: null }));
    expect([lost.status, await lost.json()]).toMatchObject([
      400,
      {
        type: '/api/problems/event-not-understood',
        detail: expect.stringMatching(
          /"data.purchase" is missing.*"purchase" from \/order\/number/,
        ) as string,
      },
    ]);
    const unknown = await tell(sold({ id: 31, kind: 'paused' }));
    expect(((await unknown.json()) as { detail: string }).detail).toContain(
      'The settings do not say what "paused" means',
    );
    await tell(
      sold(
        { id: 32, at: undefined },
        { number: 1002, items: [{ sku: 'SKU-2' }], customer: { mail: 'cy@x.example' } },
      ),
    );
    const [before] = await bought('cy@x.example');
    expect(before).toMatchObject({ product: 'SKU-2' });
    // It did not say when it happened: when it came, also when it is read again.
    const lostAt = before!.events[0]!.at;
    await service.end();
    await start(shop(', paused: purchase.paused').replace('SKU-1: map', 'SKU-1: map, SKU-2: map'));
    const post = (body: object): RequestInit => ({
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(body),
    });
    const apply = '/api/sites/own/shop-events/applied';
    const one = await call(service.address, apply, post({ shop: 'stall', id: '31' }));
    expect(await one.json()).toEqual({ applied: 1, reread: 0, rejected: [] });
    const all = await call(service.address, apply, post({}));
    expect(await all.json()).toMatchObject({ applied: 0, reread: 1, rejected: [{ id: '30' }] });
    const [reread] = await bought('cy@x.example');
    expect(reread).toMatchObject({ product: 'map', events: [{ at: lostAt }] });
    const drop = '/api/sites/own/shop-events?shop=stall&id=30';
    expect((await call(service.address, drop, { method: 'DELETE' })).status).toBe(204);
    expect((await call(service.address, drop, { method: 'DELETE' })).status).toBe(404);
    const left = await call(service.address, '/api/sites/own/shop-events');
    expect(((await left.json()) as { rejected: unknown[] }).rejected).toEqual([]);
  });

  test('an event that is tried is kept nowhere, and says what it would become', async () => {
    const tries = async (told: object | string, name = 'stall', headers: object[] = []) => {
      const body = typeof told === 'string' ? told : JSON.stringify(told);
      const response = await call(service.address, '/api/sites/own/shop-events/trial', {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify({ shop: name, body, headers }),
      });
      return (await response.json()) as Awaited<ReturnType<Client['tryShopEvent']>>;
    };
    const tried = await tries(
      sold({ id: 40 }, { number: 1003, customer: { mail: 'di@x.example' } }),
    );
    expect(tried).toMatchObject({
      result: 'new',
      event: { product: 'map', email: 'di@x.example' },
      warnings: [],
      purchase: { state: 'in-force' },
    });
    expect(await bought('di@x.example')).toEqual([]);
    expect((await tries(sold())).result).toBe('known');
    expect((await tries(sold({ kind: 'viewed' }))).result).toBe('ignored');
    expect(await tries(sold({ kind: 'gone' }))).toMatchObject({ result: 'rejected', event: null });
    expect((await tries('{')).problem).toContain('This is not JSON');
    expect((await tries('{"__proto__": 1}')).problem).toContain('__proto__');
    const other = await tries(
      sold({ id: 41, kind: 'given-back' }, { number: 7, items: [{ sku: 'X' }] }),
    );
    expect(other.warnings).toEqual([
      expect.stringContaining('no product "X"'),
      expect.stringContaining('Nobody has told yet that "7" was bought'),
    ]);
    const header = [{ name: 'x-kiosk-topic', value: 'order' }];
    const byHeader = await tries({ ref: 'k9', what: 'map', mail: 'e@x.example' }, 'kiosk', header);
    expect(byHeader).toMatchObject({ result: 'new', purchase: { email: 'e@x.example' } });
    const nobody = call(service.address, '/api/sites/own/shop-events/trial', {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ shop: 'none', body: '{}' }),
    });
    expect((await nobody).status).toBe(404);
  });

  test('each call was made, and answered as described', () => {
    expect(operations('shop-events').filter((one) => !called.has(one))).toEqual([]);
  });
});

test.each([
  ['signature: { header: "X Y" }', '"header" is the name of a header'],
  ['signature: { as: hex }', '"header" of a signature is missing'],
  ['signature: { header: X, as: hexa }', '"as" of a signature is hex or base64'],
  ['events: { types: { a: purchase.made } }', '"type" of the events is missing'],
  ['events: { type: /a }', '"types" of the events is missing'],
  ['events: { type: /a, types: { a: purchase.mde } }', '"types" of the events says one of'],
  ['events: { type: kind, types: { a: ignore } }', '"type" of the events is a JSON Pointer'],
  ['events: { id: { header: X }, type: /a, types: { a: ignore } }', 'events.id must be'],
])('a shop with %s is refused: %s', (text, said) => {
  const folder = temporaryFolder();
  const file = join(folder.path, 'settings.yaml');
  writeFileSync(
    file,
    `shops: [{ name: hut, site: x, secret: 'whsec_${Buffer.alloc(32).toString('base64')}', ${text} }]\n`,
  );
  expect(() => readSettings(file)).toThrow(said);
  folder.remove();
});
