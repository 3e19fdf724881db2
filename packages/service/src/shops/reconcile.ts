import { model, purchases } from '@kleidon/core';
import type { LedgerStore, NewEvent } from '../store/ledger.ts';
import { standingPurchases } from './all-purchases.ts';

/** A list of a shop beside what is known here of the shop. */
export interface Reconciled {
  /** How many stand the same in both. */
  readonly same: number;
  readonly differing: readonly purchases.DifferingPurchase[];
  /** On the list, and not here. */
  readonly missingHere: readonly purchases.ListedPurchase[];
  /** Here, and not on the list. */
  readonly missingThere: readonly purchases.ListedPurchase[];
}

/**
 * Compares the list of a shop with what is known of its purchases at a moment.
 * @param at in milliseconds since 1970
 */
export async function reconcile(
  ledger: LedgerStore,
  site: string,
  shop: string,
  rows: readonly purchases.ListedPurchase[],
  at: number,
): Promise<Reconciled> {
  const listed = new Map(rows.map((row) => [row.purchase, row]));
  const differing: purchases.DifferingPurchase[] = [];
  const missingThere: purchases.ListedPurchase[] = [];
  let same = 0;
  for await (const one of standingPurchases(ledger, site, at, { shop, purchase: '' })) {
    if (one.shop !== shop) break;
    const here = purchases.asListed(one);
    const there = listed.get(one.id);
    listed.delete(one.id);
    const difference = there && purchases.differenceOf(there, here);
    if (!there) missingThere.push(here);
    else if (difference) differing.push(difference);
    else same++;
  }
  return { same, differing, missingHere: [...listed.values()], missingThere };
}

/**
 * The events that make a purchase of a list known here. Each has an id that follows from the purchase, so that the
 * same list adds nothing when it comes again.
 * @param now in milliseconds since 1970; what begins later was made now
 */
export function eventsFor(row: purchases.ListedPurchase, now: number): NewEvent[] {
  const event = (type: model.ShopEventType, at: number): NewEvent => ({
    id: `listed-${type}-${row.purchase}`,
    type,
    at,
    ...model.UNSAID,
    purchase: row.purchase,
    receivedAt: now,
  });
  const { product, from, until, email, visitor } = row;
  const made = {
    ...event('purchase.made', Math.min(from ?? now, now)),
    product,
    from,
    until,
    email,
    visitor,
  };
  const then = STATE_EVENTS[row.state];
  // Since when it is so, the list does not say.
  return then === null ? [made] : [made, event(then, now)];
}

const STATE_EVENTS: Readonly<Record<purchases.ListedState, model.ShopEventType | null>> = {
  active: null,
  'not-renewed': 'purchase.cancelled',
  paused: 'purchase.paused',
  refunded: 'purchase.refunded',
};
