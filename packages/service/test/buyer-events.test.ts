import fc from 'fast-check';
import type { model } from '@kleidon/core';
import { openDatabase, type Db } from '../src/store/database.ts';
import { ledgerStore, type LedgerStore } from '../src/store/ledger.ts';
import { temporaryFolder } from './running.ts';

const EMAILS = ['a@x.example', 'b@x.example', 'c@x.example', 'd@x.example'];
const IDS = ['u', 'v', 'w'];
const BUYERS = [null, ...EMAILS].flatMap((email) =>
  [null, ...IDS].map((visitor) => ({ email, visitor })),
);

const perhaps = <T>(of: readonly T[]): fc.Arbitrary<T | null> =>
  fc.option(fc.constantFrom(...of), { freq: 2 });
const event: fc.Arbitrary<model.ShopEvent> = fc
  .record({
    id: fc.integer({ min: 0, max: 30 }).map(String),
    type: fc.constantFrom<model.ShopEventType>(
      ...(['purchase.made', 'purchase.made', 'purchase.renewed', 'purchase.refunded'] as const),
      ...(['buyer.moved', 'buyer.linked'] as const),
    ),
    at: fc.integer({ min: 0, max: 9 }),
    purchase: fc.constantFrom('o1', 'o2', 'o3', 'o4', 'o5'),
    product: fc.constantFrom('map', 'guide'),
    from: fc.constant(null),
    until: fc.constant(null),
    isPartly: fc.constant(false),
    email: perhaps(EMAILS),
    visitor: perhaps(IDS),
    formerEmail: perhaps(EMAILS),
  })
  .map((one) =>
    one.type.startsWith('buyer.')
      ? { ...one, purchase: '', product: null }
      : { ...one, formerEmail: null },
  );
const step = fc.oneof(
  { weight: 12, arbitrary: event.map((one) => ({ is: 'add', one }) as const) },
  { weight: 2, arbitrary: event.map((one) => ({ is: 'reread', one }) as const) },
  {
    weight: 1,
    arbitrary: fc.constantFrom(...BUYERS).map((one) => ({ is: 'erase', one }) as const),
  },
);

const erasure = (receivedAt: number) => ({
  ...{ shop: 'by-hand', id: `erasure-${receivedAt}`, at: 5, receivedAt },
});
describe('what is kept of each buyer', () => {
  const folder = temporaryFolder();
  let db: Db;
  let ledger: LedgerStore;
  let sites = 0;
  const newSite = (): string => {
    const site = `s${++sites}`;
    db.prepare("insert into site (id, created_at) values (?, '2026')").run(site);
    return site;
  };
  const kept = (site: string): { name: string; events: string }[] =>
    db
      .prepare<[string], { name: string; events: string }>(
        'select name, events from buyer where site_id = ? order by name',
      )
      .all(site);

  beforeAll(() => {
    db = openDatabase(folder.path);
    ledger = ledgerStore(db);
  });
  afterAll(() => {
    db.close();
    folder.remove();
  });

  test('is what is told of them, in whatever order that comes, and however it is read again or erased', () => {
    fc.assert(
      fc.property(fc.array(step, { minLength: 1, maxLength: 40 }), (steps) => {
        const site = newSite();
        for (const [i, { is, one }] of steps.entries()) {
          const shop = `${site}-${i % 2 ? 'hut' : 'kiosk'}`;
          if (is === 'add') ledger.add(site, shop, { ...one, receivedAt: i, body: '{}' });
          if (is === 'reread') ledger.reread(site, shop, one);
          if (is === 'erase') ledger.erase(site, one, erasure(i));
        }
        // As a database without these rows would make them.
        const before = kept(site);
        db.exec('delete from buyer');
        ledgerStore(db);
        expect(kept(site)).toEqual(before);
      }),
      { numRuns: 60 },
    );
  });

  test('is as it was where a change is taken back, as on a full disk', () => {
    const site = newSite();
    const told = {
      ...{ id: '1', type: 'purchase.made' as const, at: 1, purchase: 'o1', product: 'map' },
      ...{ from: null, until: null, isPartly: false, email: null, visitor: 'u' },
      ...{ formerEmail: null, receivedAt: 1 },
    };
    ledger.add(site, 'back', told);
    const failing = (): unknown =>
      ledger.together(() => {
        ledger.erase(site, { email: null, visitor: 'u' }, erasure(9));
        expect(ledger.eventsOf(site, { email: null, visitor: 'u' })).toEqual([]);
        throw new Error('The disk is full.');
      });
    expect(failing).toThrow('The disk is full.');
    expect(ledger.eventsOf(site, { email: null, visitor: 'u' })).toHaveLength(1);
  });

  test('is made from the events where a database has none yet', () => {
    const site = newSite();
    const made = (id: string, email: string, more: Partial<model.ShopEvent> = {}) => ({
      ...{ id, type: 'purchase.made' as const, at: 1, purchase: id, product: 'map', from: null },
      ...{ until: null, isPartly: false, email, visitor: null, formerEmail: null, receivedAt: 1 },
      ...more,
    });
    ledger.addAll(site, 'old', [
      made('1', EMAILS[0]!),
      made('2', EMAILS[1]!, { visitor: 'u' }),
      made('3', EMAILS[0]!, { type: 'buyer.linked', purchase: '', formerEmail: EMAILS[1]! }),
    ]);
    const before = kept(site);
    expect(before).toHaveLength(3);
    db.exec('delete from buyer');
    ledgerStore(db);
    expect(kept(site)).toEqual(before);
  });

  test('is no more than can be read at once: of whom there is much, it is looked for', () => {
    const site = newSite();
    const [hot, linked, other] = EMAILS as [string, string, string];
    const made = (id: string, more: Partial<model.ShopEvent>) => ({
      ...{ id, type: 'purchase.made' as const, at: 1, purchase: id, product: 'map', from: null },
      ...{ until: null, isPartly: false, email: hot, visitor: null, formerEmail: null },
      ...{ receivedAt: 1, ...more },
    });
    const many = Array.from({ length: 300 }, (_, i) => made(`m${i}`, {}));
    ledger.addAll(site, 'much', many);
    const link = { type: 'buyer.linked' as const, purchase: '', product: null };
    ledger.add(site, 'much', made('link', { ...link, email: linked, formerEmail: hot }));
    ledger.add(site, 'much', made('last', {}));
    ledger.add(site, 'much', made('own', { email: other }));
    const found = (email: string): number => ledger.eventsOf(site, { email, visitor: null }).length;
    expect([hot, linked, other].map(found)).toEqual([302, 302, 1]);
    expect(kept(site).map(({ events }) => events === '')).toEqual([true, true, false]);

    // Whoever is linked to one of whom there is much is none of those who are erased.
    expect(ledger.erase(site, { email: linked, visitor: null }, erasure(9))).toBe(1);
    expect([hot, linked, other].map(found)).toEqual([301, 0, 1]);
    expect(ledger.erase(site, { email: hot, visitor: null }, erasure(10))).toBe(301);
    expect([hot, linked, other].map(found)).toEqual([0, 0, 1]);
  });
});
