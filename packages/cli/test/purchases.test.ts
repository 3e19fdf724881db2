import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { KnownPurchase, PurchaseSummary } from '@kleidon/client';
import { run, temporaryFolder, type Running } from '../../service/test/running.ts';
import { secret, tell } from '../../service/test/shop.ts';
import { json, kleidon, type Ended } from './cli.ts';

const FILE = `kleidon: 1
site: { name: Own, address: https://own.example }
products: { map: { title: Map, term: subscription }, course: { title: Course } }
pages: { /: Home }
`;

describe('kleidon purchases and events', () => {
  const folder = temporaryFolder();
  const file = (name: string): string => join(folder.path, name);
  let service: Running;
  const to = (...args: string[]): Promise<Ended> =>
    kleidon([...args, '--service', service.address]);
  const told = <T>(...args: string[]): Promise<T> =>
    json<T>([...args, '--service', service.address]);
  const sell = (type: string, data: Record<string, unknown>): Promise<Response> =>
    tell(service.address, { type, data });

  beforeAll(async () => {
    writeFileSync(file('kleidon.yaml'), `shops: [{ name: hut, site: own, secret: ${secret} }]\n`);
    writeFileSync(file('own.site.yaml'), FILE);
    service = await run(file('data'), '--settings', file('kleidon.yaml'), '--log-level', 'silent');
    await to('sites', 'add', file('own.site.yaml'), '--id', 'own');
    await sell('purchase.made', {
      purchase: 'o-1',
      product: 'map',
      email: 'mia@x.example',
      until: '2099-01-01T00:00:00Z',
    });
    await sell('purchase.made', { purchase: 'o-2', product: 'course', email: 'bo@x.example' });
    await sell('purchase.refunded', { purchase: 'o-2' });
    await sell('purchase.renewed', { purchase: 'o-1' });
  });
  afterAll(async () => {
    await service.end();
    folder.remove();
  });

  test('count and list what there is', async () => {
    const { out } = await to('purchases', 'count');
    expect(out).toMatch(/^product +in force +in grace +not renewed +paused +lapsed +refunded$/m);
    expect(out).toMatch(/^course +0 +0 +0 +0 +0 +1$/m);
    expect(out).toMatch(/^map +1 +0 +0 +0 +0 +0$/m);
    expect(out).toContain('1 event not understood');
    const summary = await told<PurchaseSummary>('purchases', 'count');
    expect(summary.shops).toEqual(['hut']);
    const list = await to('purchases', 'list', '--limit', '1');
    expect(list.out).toMatch(
      /hut\/o-1 .*mia@x\.example.*in force\nThere are more: --after hut\/o-1/,
    );
    const rest = await to('purchases', 'list', '--after', 'hut/o-1', '--state', 'refunded');
    expect(rest.out).toMatch(/hut\/o-2 .*refunded/);
    expect((await to('purchases', 'list', '--product', 'none')).out).toBe('No purchases.\n');
  });

  test('show a buyer, by address or order', async () => {
    for (const who of [
      ['--email', 'Mia@x.example'],
      ['--order', 'o-1'],
    ])
      expect((await to('purchases', 'show', ...who)).out).toMatch(
        /^map from .* until 2099-01-01 00:00Z, in force hut o-1\n {2}.* purchase\.made, until/,
      );
    expect((await to('purchases', 'show')).code).toBe(2);
  });

  test('grant, end, link and erase', async () => {
    const added = await told<KnownPurchase>(
      ...['purchases', 'add', 'course', '--email', 'vik@x.example', '--note', 'Helps'],
    );
    expect(added).toMatchObject({ shop: 'by-hand', state: 'in-force' });
    expect((await to('purchases', 'end', added.purchase, '--note', 'Done')).out).toContain('Ended');
    const ended = await to('purchases', 'show', '--email', 'vik@x.example');
    expect(ended.out).toMatch(/lapsed by-hand.*: Helps\n.*: Done\n/s);
    const link = ['purchases', 'link', 'mia@x.example', 'mia@y.example', '--note', 'Asked'];
    expect((await to(...link)).code).toBe(0);
    expect((await to('purchases', 'show', '--email', 'mia@y.example')).out).toContain('o-1');
    expect((await to('purchases', 'unlink', ...link.slice(2))).code).toBe(0);
    expect((await to('purchases', 'show', '--email', 'mia@y.example')).out).not.toContain('o-1');
    expect((await to('purchases', 'erase', '--email', 'vik@x.example')).out).toBe(
      'Erased from 1 event.\n',
    );
    expect((await to('purchases', 'erase')).code).toBe(2);
    const wrong = await to('purchases', 'add', 'coarse', '--email', 'a@x.example', '--note', 'x');
    expect([wrong.code, wrong.err]).toEqual([2, expect.stringContaining('no product "coarse"')]);
  });

  test('take over a list, compare it, and write one', async () => {
    writeFileSync(file('old.csv'), 'order,product,email\no-7,map,di@x.example\no-8,,e@x.example\n');
    const list = ['purchases', 'import', file('old.csv'), '--shop', 'old'];
    const dry = await to(...list, '--dry-run');
    expect([dry.code, dry.out]).toEqual([
      1,
      'Would add 1 purchase; nothing was added.\n0 known and the same.\n✗ Line 3: Its cell product is empty.\n',
    ]);
    expect((await to(...list)).out).toContain('Added 1 purchase.');
    const changed = 'order,product,email\no-7,course,di@x.example\no-9,map,f@x.example\n';
    writeFileSync(file('old.csv'), changed);
    const compared = await to('purchases', 'reconcile', file('old.csv'), '--shop', 'old');
    expect([compared.code, compared.out]).toEqual([
      1,
      expect.stringMatching(
        /o-7 {2}product course, here map\n1 on the list, and not here:\n {2}o-9/,
      ),
    ]);
    await to('purchases', 'export', file('all.csv'));
    const rows = readFileSync(file('all.csv'), 'utf8').trim().split('\r\n');
    expect(rows[0]).toBe('shop,purchase,product,email,visitor,from,until,state');
    const own = rows.filter((row) => /^(shop|old),/.test(row));
    writeFileSync(file('old.csv'), own.join('\n'));
    const same = await to('purchases', 'reconcile', file('old.csv'), '--shop', 'old');
    expect([same.code, same.out]).toEqual([0, expect.stringContaining('1 the same in both.')]);
    const none = await to('purchases', 'import', file('none.csv'), '--shop', 'old');
    expect([none.code, none.err]).toEqual([2, expect.stringContaining('none.csv')]);
  });

  test('events are listed, tried, applied again and dropped', async () => {
    const { out } = await to('events', 'list');
    expect(out).toMatch(/purchase\.refunded +o-2/);
    const id = /✗ hut (\S+),.*"data\.until" is missing/.exec(out)?.[1];
    expect(await to('events', 'apply', '--id', id!)).toMatchObject({
      code: 1,
      out: expect.stringContaining('0 events applied.') as string,
    });
    expect((await to('events', 'drop', 'hut', id!)).out).toBe(`Dropped ${id}.\n`);
    expect((await to('events', 'apply')).code).toBe(0);
    const event = { type: 'purchase.paused', timestamp: '2026-11-27T00:00:00Z', data: {} };
    const trial = (data: object): Promise<Ended> =>
      kleidon(['events', 'try', '-', '--shop', 'hut', '--service', service.address], {
        input: JSON.stringify({ ...event, data }),
      });
    expect((await trial({ purchase: 'o-1' })).out).toMatch(/^It would be applied\.[^]*Then: map/);
    expect(await trial({})).toMatchObject({
      code: 1,
      out: expect.stringContaining('"data.purchase" is missing') as string,
    });
  });
});
