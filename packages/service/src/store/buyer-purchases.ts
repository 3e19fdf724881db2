import { type model, purchases } from '@kleidon/core';

/** Something that a shop told, with when that arrived. */
export interface ReceivedEvent extends model.ShopEvent {
  readonly shop: string;
  /** Milliseconds since 1970. */
  readonly receivedAt: number;
  /** Why somebody did it by hand; null for what a shop told. */
  readonly note: string | null;
}

/** By what a buyer is known: an address that was verified, and their id on the website. */
export interface Buyer {
  readonly email: string | null;
  readonly visitor: string | null;
}

/** A purchase as it stands at a moment, with the events that made it so. */
export interface KnownPurchase extends purchases.LedgerPurchase {
  readonly shop: string;
  readonly events: readonly ReceivedEvent[];
}

/** The purchases of a buyer at a moment, from all that was told of them. */
export const purchasesIn = (
  events: readonly ReceivedEvent[],
  buyer: Buyer,
  at: number,
): KnownPurchase[] =>
  standingIn(events, buyer, at).map((one) => ({
    ...one,
    events: events
      .filter(({ purchase, shop }) => purchase === one.id && shop === one.shop)
      .sort((a, b) => a.at - b.at || (a.id < b.id ? -1 : 1)),
  }));

/** The same without what made them so. */
export function standingIn(
  events: readonly ReceivedEvent[],
  { email, visitor }: Buyer,
  at: number,
): Omit<KnownPurchase, 'events'>[] {
  const [first] = events;
  if (!first) return [];
  const addresses = linkedTo(email, events, at);
  const isOne = events.every(({ shop }) => shop === first.shop);
  const shops = isOne ? [first.shop] : [...new Set(events.map(({ shop }) => shop))];
  return shops.flatMap((shop) => {
    const own = isOne ? events : events.filter((event) => event.shop === shop);
    return purchases
      .purchasesAt(own, at)
      .filter(
        ({ holders }) =>
          holders.emails.some((one) => addresses.has(one)) ||
          (visitor !== null && holders.visitors.includes(visitor)),
      )
      .map((one) => Object.assign(one, { shop }));
  });
}

/** An address, and those that an operator has linked to it at a moment. A link is not transitive. */
function linkedTo(
  email: string | null,
  events: readonly ReceivedEvent[],
  at: number,
): ReadonlySet<string> {
  if (email === null) return new Set();
  const linked = new Set([email]);
  const links = events
    .filter(({ type }) => type === 'buyer.linked' || type === 'buyer.unlinked')
    .filter((event) => event.at <= at && (event.email === email || event.formerEmail === email))
    .sort((a, b) => a.at - b.at || (a.type < b.type ? -1 : a.type > b.type ? 1 : 0));
  for (const { type, email: one, formerEmail: other } of links) {
    const address = one === email ? other : one;
    if (address === null) continue;
    if (type === 'buyer.linked') linked.add(address);
    else linked.delete(address);
  }
  return linked;
}
