import { type model, purchases } from '@kleidon/core';
import { standingIn } from '../store/buyer-purchases.ts';
import type { LedgerStore } from '../store/ledger.ts';

/** Gives a visitor what they bought in the shops of a site. */
export type Buyers = (visitor: model.Visitor) => model.Visitor;

/** How purchases stand is asked again after so many milliseconds. */
const KEPT = 1000;
const MOST_KEPT = 10_000;

interface Known {
  readonly at: number;
  readonly bought: model.Visitor['bought'];
}

/**
 * Visitors with their purchases, by their id and by the e-mail address that was verified. What a shop tells is in
 * force a second later; nobody has to sign in again.
 */
export function buyersOf(
  site: string,
  ledger: Pick<LedgerStore, 'eventsOf'>,
  now: () => number,
): Buyers {
  const known = new Map<string, Known>();
  return (visitor) => {
    if (visitor.guest) return visitor;
    const { email } = visitor.attributes;
    const address = typeof email === 'string' ? purchases.foldEmail(email) : null;
    const key = JSON.stringify([visitor.id, address]);
    const at = now();
    let found = known.get(key);
    if (!found || at - found.at >= KEPT || at < found.at) {
      const buyer = { email: address, visitor: visitor.id };
      found = { at, bought: standingIn(ledger.eventsOf(site, buyer), buyer, at) };
      // Most of them are over by then.
      if (known.size >= MOST_KEPT) known.clear();
      known.set(key, found);
    }
    if (found.bought.length === 0) return visitor;
    return { ...visitor, bought: [...visitor.bought, ...found.bought] };
  };
}
