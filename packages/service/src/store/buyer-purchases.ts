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
        (one) =>
          (one.email !== null && addresses.has(one.email)) ||
          (visitor !== null && one.visitor === visitor),
      )
      .map((one) => Object.assign(one, { shop }));
  });
}

/** The addresses that somebody has linked to one, by a moment, and the one. */
function linkedTo(
  email: string | null,
  events: readonly ReceivedEvent[],
  at: number,
): ReadonlySet<string> {
  const linked = new Set(email === null ? [] : [email]);
  const links = events.filter((event) => event.type === 'buyer.linked' && event.at <= at);
  if (links.length === 0) return linked;
  for (const address of linked)
    for (const link of links) {
      if (link.email === address && link.formerEmail !== null) linked.add(link.formerEmail);
      if (link.formerEmail === address && link.email !== null) linked.add(link.email);
    }
  return linked;
}
