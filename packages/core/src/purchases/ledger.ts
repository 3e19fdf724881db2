import type { ShopEvent, ShopEventType } from '../model/shop-event.ts';
import type { Purchase } from '../model/visitor.ts';
import { knownName } from './names.ts';

/** The names that hold a purchase at a moment, in the order in which they came to it. */
export interface Holders {
  readonly emails: readonly string[];
  readonly visitors: readonly string[];
}

/** A purchase as its events have made it, up to a moment. */
export interface LedgerPurchase extends Purchase {
  /** What the shop calls it. */
  readonly id: string;
  readonly holders: Holders;
  /** The last address and the last id of its holders; null where there is none, or it was erased. */
  readonly email: string | null;
  readonly visitor: string | null;
  /** It is not renewed when its period ends. */
  readonly isCancelled: boolean;
}

/** A purchase while its events are read. */
type Draft = {
  -readonly [
    Key in keyof Omit<LedgerPurchase, 'holders' | 'email' | 'visitor'>
  ]: LedgerPurchase[Key];
} & { holders: Names };

interface Names {
  readonly emails: Set<string>;
  readonly visitors: Set<string>;
}

/**
 * How purchases stand at a moment, computed from what a shop told; docs/identity.md says whose they are. The order in
 * which events came does not matter, nor how often: each counts once, at the time at which it happened. What is told
 * of a purchase before it was made waits until then.
 *
 * @param events those of one shop
 * @param at in milliseconds since 1970; what happened later is left out
 * @returns the purchases that were made by then, in the order of their ids
 */
export function purchasesAt(events: Iterable<ShopEvent>, at: number): LedgerPurchase[] {
  const told = inOrder(events).filter((event) => event.at <= at);
  const purchases = new Map<string, Draft>();
  for (const event of told)
    if (event.type === 'purchase.made' && !purchases.has(event.purchase))
      purchases.set(event.purchase, madeBy(event));
  const all = [...purchases.values()];
  for (let i = 0; i < told.length; i++) {
    const event = told[i]!;
    if (event.type === 'buyer.moved') {
      const together = told
        .slice(i)
        .filter(({ type, at }) => type === event.type && at === event.at);
      moveAll(all, together);
      i += together.length - 1;
    } else {
      const purchase = purchases.get(event.purchase);
      if (purchase) apply(purchase, event);
    }
  }
  return all.map(finished).sort((a, b) => (a.id < b.id ? -1 : 1));
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
    standings.push({ since, purchase: finished(purchase) });
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

const madeBy = (event: ShopEvent): Draft => ({
  id: event.purchase,
  product: event.product ?? '',
  from: event.from ?? event.at,
  until: event.until,
  refunded: false,
  paused: false,
  isCancelled: false,
  holders: { emails: new Set(), visitors: new Set() },
});

function finished({ holders, ...purchase }: Draft): LedgerPurchase {
  const [emails, visitors] = [[...holders.emails], [...holders.visitors]];
  return {
    ...purchase,
    holders: { emails, visitors },
    email: knownName(emails.at(-1)),
    visitor: knownName(visitors.at(-1)),
  };
}

/** The order of what happened at the same moment: who had a purchase before counts, and a refund wins over everything. */
const ORDER = new Map<ShopEventType, number>(
  (
    [
      ...['buyer.erased', 'buyer.moved', 'buyer.linked', 'buyer.unlinked', 'purchase.made'],
      ...['purchase.changed', 'purchase.renewed', 'purchase.resumed', 'purchase.cancelled'],
      ...['purchase.paused', 'purchase.refunded', 'purchase.charged-back'],
    ] as ShopEventType[]
  ).map((type, i) => [type, i]),
);

/** What happened at the same moment is read in the order of its types, and then of its ids. */
const byTime = (a: ShopEvent, b: ShopEvent): number =>
  a.at - b.at || ORDER.get(a.type)! - ORDER.get(b.type)! || (a.id < b.id ? -1 : 1);

function apply(purchase: Draft, event: ShopEvent): void {
  // Every event adds the names that it carries: who bought may be known only later, when they have an account.
  if (event.email !== null) purchase.holders.emails.add(event.email);
  if (event.visitor !== null) purchase.holders.visitors.add(event.visitor);
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
    default:
  }
}

/** Moves purchases to other addresses: those that the former names hold just before the moment of the moves. */
function moveAll(purchases: readonly Draft[], moves: readonly ShopEvent[]): void {
  const changes = moves.flatMap(({ email, formerEmail, visitor }) =>
    email === null
      ? []
      : purchases
          .filter(
            ({ holders }) =>
              (formerEmail !== null && holders.emails.has(formerEmail)) ||
              (visitor !== null && holders.visitors.has(visitor)),
          )
          .map((purchase) => ({
            purchase,
            email,
            // A buyer who is named by their id has no other address any more.
            lost: formerEmail === null ? [...purchase.holders.emails] : [formerEmail],
          })),
  );
  for (const { purchase, lost } of changes)
    for (const one of lost) purchase.holders.emails.delete(one);
  for (const { purchase, email } of changes) purchase.holders.emails.add(email);
}
