import fc from 'fast-check';
import { SHOP_EVENT_TYPES, UNSAID, type ShopEvent } from '../src/model/shop-event.ts';
import { stateOf } from '../src/condition/purchase-state.ts';
import { purchaseCounter } from '../src/purchases/count.ts';
import { purchasesAt, standingsOf, type LedgerPurchase } from '../src/purchases/ledger.ts';

let made = 0;
const event = (type: ShopEvent['type'], at: number, more: Partial<ShopEvent> = {}): ShopEvent => ({
  id: `e${++made}`,
  type,
  at,
  ...UNSAID,
  purchase: type === 'buyer.moved' ? '' : 'o1',
  ...more,
});
const sale = event('purchase.made', 10, { product: 'map', until: 100, email: 'vik@x.example' });
const one = (events: ShopEvent[], at: number): LedgerPurchase | undefined =>
  purchasesAt(events, at)[0];

describe('how a purchase stands', () => {
  test('before it was made there is none', () => {
    expect(purchasesAt([sale], 9)).toEqual([]);
    expect(one([sale], 10)).toEqual({
      id: 'o1',
      product: 'map',
      from: 10,
      until: 100,
      refunded: false,
      paused: false,
      isCancelled: false,
      email: 'vik@x.example',
      visitor: null,
      holders: { emails: ['vik@x.example'], visitors: [] },
    });
  });

  test.each<[string, ShopEvent[], Partial<LedgerPurchase>]>([
    ['renewed', [event('purchase.renewed', 20, { until: 200 })], { until: 200 }],
    ['cancelled', [event('purchase.cancelled', 20)], { isCancelled: true, until: 100 }],
    ['paused', [event('purchase.paused', 20)], { paused: true }],
    [
      'resumed',
      [event('purchase.paused', 20), event('purchase.resumed', 30, { until: 110 })],
      { paused: false, until: 110 },
    ],
    ['refunded', [event('purchase.refunded', 20)], { refunded: true }],
    ['refunded in part', [event('purchase.refunded', 20, { isPartly: true })], { refunded: false }],
    ['charged back', [event('purchase.charged-back', 20)], { refunded: true }],
    [
      'refunded and bought again',
      [event('purchase.refunded', 20), event('purchase.renewed', 30, { until: 300 })],
      { refunded: false, until: 300 },
    ],
    ['changed', [event('purchase.changed', 20, { product: 'all' })], { product: 'all' }],
    [
      'moved',
      [event('buyer.moved', 20, { formerEmail: 'vik@x.example', email: 'vik@y.example' })],
      { email: 'vik@y.example' },
    ],
    ['known later', [event('purchase.cancelled', 20, { visitor: 'vik' })], { visitor: 'vik' }],
    ['told of another', [event('purchase.refunded', 20, { purchase: 'o2' })], { refunded: false }],
  ])('%s', (_, more, expected) => {
    expect(one([sale, ...more], 50)).toMatchObject(expected);
    // At a moment before, it was not so.
    expect(one([sale, ...more], 15)).toEqual(one([sale], 15));
  });
});

const ids = fc.constantFrom('o1', 'o2', 'o3');
const mails = fc.constantFrom('a@x.example', 'b@x.example', null);
const events = fc.uniqueArray(
  fc.record<ShopEvent>({
    id: fc.string({ minLength: 1, maxLength: 3 }),
    type: fc.constantFrom(...SHOP_EVENT_TYPES),
    at: fc.integer({ min: 0, max: 20 }),
    purchase: ids,
    product: fc.constantFrom('map', 'guide', null),
    from: fc.constantFrom(null, 5),
    until: fc.constantFrom(null, 8, 30),
    isPartly: fc.boolean(),
    email: mails,
    visitor: fc.constantFrom('vik', null),
    formerEmail: mails,
  }),
  { selector: ({ id }) => id, maxLength: 20 },
);

test('the order in which events come, and how often, does not matter', () => {
  fc.assert(
    fc.property(
      events.chain((all) =>
        fc.tuple(
          fc.constant(all),
          fc.shuffledSubarray([...all, ...all], {
            minLength: 2 * all.length,
            maxLength: 2 * all.length,
          }),
        ),
      ),
      fc.integer({ min: -1, max: 22 }),
      ([told, shuffled], at) => {
        expect(purchasesAt(shuffled, at)).toEqual(purchasesAt(told, at));
      },
    ),
  );
});

test('what is known at a moment is what was told of the time until then', () => {
  fc.assert(
    fc.property(events, fc.integer({ min: 0, max: 20 }), (told, at) => {
      const until = told.filter((one) => one.at <= at);
      expect(purchasesAt(told, at)).toEqual(purchasesAt(until, Number.MAX_SAFE_INTEGER));
    }),
  );
});

test('how one purchase stood from each moment on is how it stood at every moment', () => {
  fc.assert(
    fc.property(events, fc.integer({ min: -1, max: 22 }), (told, at) => {
      const own = told
        .filter(({ purchase, type }) => purchase === 'o1' && !type.startsWith('buyer.'))
        .map((event) => ({ ...event }));
      const then = standingsOf(own).findLast(({ since }) => since <= at)?.purchase;
      expect(then).toEqual(purchasesAt(own, at)[0]);
    }),
  );
});

test('what is counted is what each purchase comes to at each moment', () => {
  const moments = { now: 12, inForceAt: [3, 9, 15, 25], ending: [12, 20, 31] };
  fc.assert(
    fc.property(events, (told) => {
      const counter = purchaseCounter(undefined, moments);
      const of = (id: string) => told.filter(({ purchase }) => purchase === id);
      for (const id of ['o1', 'o2', 'o3']) counter.add(of(id));
      const at = (moment: number) =>
        ['o1', 'o2', 'o3'].flatMap((id) => purchasesAt(of(id), moment));
      const inForceAt = (moment: number): number =>
        at(moment).filter((one) => stateOf(one, 0, moment) === 'in-force').length;
      const counts = counter.counts();
      const sum = (numbers: readonly number[]): number => numbers.reduce((a, b) => a + b, 0);
      expect(sum(counts.map(({ now }) => now.inForce))).toBe(inForceAt(12));
      moments.inForceAt.forEach((moment, i) => {
        expect(sum(counts.map((one) => one.inForceAt[i]!))).toBe(inForceAt(moment));
      });
      const ending = at(12).filter(
        ({ until, refunded, paused }) => until !== null && until >= 12 && !refunded && !paused,
      );
      expect(sum(counts.flatMap((one) => one.ending))).toBe(ending.length);
    }),
  );
});
