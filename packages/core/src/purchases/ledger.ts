import type { ShopEvent } from '../model/shop-event.ts';
import type { Purchase } from '../model/visitor.ts';

/** A purchase as its events have made it, up to a moment. */
export interface LedgerPurchase extends Purchase {
  /** What the shop calls it. */
  readonly id: string;
  readonly email: string | null;
  readonly visitor: string | null;
  /** It is not renewed when its period ends. */
  readonly isCancelled: boolean;
}

type Mutable<T> = { -readonly [Key in keyof T]: T[Key] };

/**
 * How purchases stand at a moment, computed from what a shop told. The order in which events came does not matter,
 * nor how often: each counts once, at the time at which it happened. What is told of a purchase before it was made
 * waits until then.
 *
 * @param at in milliseconds since 1970; what happened later is left out
 * @returns the purchases that were made by then, in the order of their ids
 */
export function purchasesAt(events: Iterable<ShopEvent>, at: number): LedgerPurchase[] {
  const told = inOrder(events).filter((event) => event.at <= at);
  const purchases = new Map<string, Mutable<LedgerPurchase>>();
  for (const event of told)
    if (event.type === 'purchase.made' && !purchases.has(event.purchase))
      purchases.set(event.purchase, madeBy(event));
  for (const event of told)
    if (event.type === 'buyer.moved') move([...purchases.values()], event);
    else {
      const purchase = purchases.get(event.purchase);
      if (purchase) apply(purchase, event);
    }
  return [...purchases.values()].sort((a, b) => (a.id < b.id ? -1 : 1));
}

/** A purchase as it stood from a moment on, until the next one. */
export interface Standing {
  /** In milliseconds since 1970. */
  readonly since: number;
  readonly purchase: LedgerPurchase;
}

/**
 * How one purchase stood from when it was made on: `purchasesAt` at every moment.
 * @param events those of one purchase alone; who has which address is not followed
 */
export function standingsOf(events: Iterable<ShopEvent>): Standing[] {
  const told = inOrder(events);
  const made = told.find(({ type }) => type === 'purchase.made');
  if (!made) return [];
  const purchase = madeBy(made);
  const standings: Standing[] = [];
  for (const event of told) {
    apply(purchase, event);
    const since = Math.max(event.at, made.at);
    if (standings.at(-1)?.since === since) standings.pop();
    standings.push({ since, purchase: { ...purchase } });
  }
  return standings;
}

const inOrder = (events: Iterable<ShopEvent>): ShopEvent[] => {
  const all = [...events];
  const ids = new Set<string>();
  for (const { id } of all) ids.add(id);
  const once =
    ids.size === all.length ? all : [...new Map(all.map((event) => [event.id, event])).values()];
  return once.sort(byTime);
};

const madeBy = (event: ShopEvent): Mutable<LedgerPurchase> => ({
  id: event.purchase,
  product: event.product ?? '',
  from: event.from ?? event.at,
  until: event.until,
  refunded: false,
  paused: false,
  isCancelled: false,
  email: event.email,
  visitor: event.visitor,
});

/** What happened at the same moment is told in the order of its ids: there must be one. */
const byTime = (a: ShopEvent, b: ShopEvent): number => a.at - b.at || (a.id < b.id ? -1 : 1);

function apply(purchase: Mutable<LedgerPurchase>, event: ShopEvent): void {
  // Who bought may be known only later, when they have an account.
  purchase.visitor ??= event.visitor;
  switch (event.type) {
    case 'purchase.renewed':
      purchase.until = event.until ?? purchase.until;
      purchase.refunded = false;
      purchase.isCancelled = false;
      break;
    case 'purchase.cancelled':
      purchase.isCancelled = true;
      purchase.until = event.until ?? purchase.until;
      break;
    case 'purchase.paused':
      purchase.paused = true;
      break;
    case 'purchase.resumed':
      purchase.paused = false;
      // The days that were paused are given back.
      purchase.until = event.until ?? purchase.until;
      break;
    case 'purchase.refunded':
      if (!event.isPartly) purchase.refunded = true;
      break;
    case 'purchase.charged-back':
      purchase.refunded = true;
      break;
    case 'purchase.changed':
      purchase.product = event.product ?? purchase.product;
      purchase.until = event.until ?? purchase.until;
      break;
    case 'purchase.made':
    case 'buyer.moved':
    case 'buyer.linked':
  }
}

/** A buyer has another address from now on. */
function move(purchases: readonly Mutable<LedgerPurchase>[], event: ShopEvent): void {
  for (const purchase of purchases) {
    const isTheirs =
      (event.visitor !== null && purchase.visitor === event.visitor) ||
      (event.formerEmail !== null && purchase.email === event.formerEmail);
    if (isTheirs) purchase.email = event.email ?? purchase.email;
  }
}
