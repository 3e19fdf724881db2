import type { model } from '@kleidon/core';
import type { LedgerStore } from '../store/ledger.ts';

/** Gives a visitor what they bought in the shops of a site. */
export type Buyers = (visitor: model.Visitor) => model.Visitor;

/** What is known of a buyer is asked for again after so many milliseconds. */
const KEPT = 1000;
const MOST_KEPT = 10_000;

/**
 * Visitors with their purchases, by their id and by the e-mail address that was verified. What a shop tells is in
 * force a second later; nobody has to sign in again.
 */
export function buyersOf(
  site: string,
  ledger: Pick<LedgerStore, 'purchasesOf'>,
  now: () => number,
): Buyers {
  const known = new Map<
    string,
    { readonly at: number; readonly bought: model.Visitor['bought'] }
  >();
  return (visitor) => {
    if (visitor.guest) return visitor;
    const { email } = visitor.attributes;
    const address = typeof email === 'string' ? email.trim().toLowerCase() : null;
    const key = JSON.stringify([visitor.id, address]);
    const at = now();
    let found = known.get(key);
    if (!found || at - found.at >= KEPT || at < found.at) {
      const buyer = { email: address, visitor: visitor.id };
      found = { at, bought: ledger.purchasesOf(site, buyer, at) };
      known.delete(key);
      known.set(key, found);
      if (known.size > MOST_KEPT) known.delete(known.keys().next().value!);
    }
    if (found.bought.length === 0) return visitor;
    return { ...visitor, bought: [...visitor.bought, ...found.bought] };
  };
}
