import type { Message } from '@kleidon/api';
import { decisions, purchases } from '@kleidon/core';
import type { SiteFacts } from '../analysis/tasks.ts';
import type { StandingPurchase } from '../shops/all-purchases.ts';
import type { KnownPurchase, ReceivedEvent } from '../store/buyer-purchases.ts';
import type { RejectedEvent } from '../store/rejected-events.ts';

/** How long purchases of a product are in force after their end, in milliseconds. */
export type Grace = (product: string) => number;

/** What the products of a site say of that; its usual length where there is no site. */
export function graceBy(facts: SiteFacts | null): Grace {
  const terms = facts ? decisions.productTerms(facts.products) : undefined;
  return (product) => purchases.graceOf(product, terms);
}

export const iso = (at: number): string => new Date(at).toISOString();
const isoOrNull = (at: number | null): string | null => (at === null ? null : iso(at));

/** An event as the API tells it. */
export const toldEvent = (event: ReceivedEvent): Message<'ReceivedEvent'> => ({
  shop: event.shop,
  id: event.id,
  type: event.type,
  at: iso(event.at),
  receivedAt: iso(event.receivedAt),
  purchase: event.purchase || null,
  product: event.product,
  from: isoOrNull(event.from),
  until: isoOrNull(event.until),
  partly: event.isPartly,
  email: purchases.knownName(event.email),
  visitor: purchases.knownName(event.visitor),
  formerEmail: purchases.knownName(event.formerEmail),
  note: event.note,
});

/** An event that was not understood, as the API tells it. */
export const toldRejected = ({ receivedAt, ...one }: RejectedEvent): Message<'RejectedEvent'> => ({
  ...one,
  receivedAt: iso(receivedAt),
});

/** A purchase as it stands at a moment, as the API tells it. */
export const toldStanding = (
  one: StandingPurchase,
  at: number,
  grace: Grace,
): Message<'StandingPurchase'> => ({
  shop: one.shop,
  purchase: one.id,
  product: one.product,
  from: isoOrNull(one.from),
  until: isoOrNull(one.until),
  refunded: one.refunded,
  paused: one.paused,
  cancelled: one.isCancelled,
  state: purchases.stateOf(one, grace(one.product), at),
  email: one.email,
  visitor: one.visitor,
});

/** The same, with what made it so. */
export const toldPurchase = (
  one: KnownPurchase,
  at: number,
  grace: Grace,
): Message<'LedgerPurchase'> => ({
  ...toldStanding(one, at, grace),
  events: one.events.map(toldEvent),
});

/** A purchase of a list, as the API tells it. */
export const toldListed = (one: purchases.ListedPurchase): Message<'ListedPurchase'> => ({
  purchase: one.purchase,
  product: one.product,
  email: one.email,
  visitor: one.visitor,
  from: isoOrNull(one.from),
  until: isoOrNull(one.until),
  state: one.state,
});
