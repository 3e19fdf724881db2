import { setImmediate as pause } from 'node:timers/promises';
import { purchases } from '@kleidon/core';
import type { ReceivedEvent } from '../store/buyer-purchases.ts';
import type { LedgerStore, PurchaseKey } from '../store/ledger.ts';

/** What was told of one purchase. */
export interface ToldPurchase {
  readonly shop: string;
  readonly id: string;
  readonly events: readonly ReceivedEvent[];
}

/** Events that are read at once: others are answered between two such pages. */
const PAGE = 1000;
const START: PurchaseKey = { shop: '', purchase: '' };

/**
 * All purchases of a site, in the order of shops and purchases, some at a time; there may be a million. Between two of
 * these pages others are answered, so that what is told meanwhile may be in it or not.
 */
export async function* allPurchases(
  ledger: LedgerStore,
  site: string,
  after: PurchaseKey = START,
): AsyncGenerator<readonly ToldPurchase[]> {
  let last = after;
  for (;;) {
    const page = ledger.nextPurchases(site, last, PAGE);
    const groups = inGroups(page);
    // The last of a full page may go on in the next one.
    if (page.length === PAGE) {
      const cut = groups.pop()!;
      if (groups.length === 0)
        groups.push({ ...cut, events: ledger.eventsOfPurchase(site, cut.shop, cut.id) });
    }
    yield groups;
    const end = groups.at(-1);
    if (!end || page.length < PAGE) return;
    last = { shop: end.shop, purchase: end.id };
    await pause();
  }
}

function inGroups(events: readonly ReceivedEvent[]): ToldPurchase[] {
  const groups: (ToldPurchase & { events: ReceivedEvent[] })[] = [];
  for (const event of events) {
    const last = groups.at(-1);
    if (last?.shop === event.shop && last.id === event.purchase) last.events.push(event);
    else groups.push({ shop: event.shop, id: event.purchase, events: [event] });
  }
  return groups;
}

/** A purchase as it stands at a moment, with the shop that sold it. */
export type StandingPurchase = purchases.LedgerPurchase & { readonly shop: string };

/** How each purchase of a site stands at a moment in milliseconds since 1970; those that were made by then. */
export async function* standingPurchases(
  ledger: LedgerStore,
  site: string,
  at: number,
  after?: PurchaseKey,
): AsyncGenerator<StandingPurchase> {
  const moves = movesIn(ledger.moves(site));
  for await (const page of allPurchases(ledger, site, after))
    for (const { shop, events } of page) {
      const [purchase] = purchases.purchasesAt([...events, ...moves(shop, events)], at);
      if (purchase) yield { ...purchase, shop };
    }
}

/** Finds the moves that may matter to a purchase: from its addresses, and from where these lead. */
function movesIn(all: readonly ReceivedEvent[]) {
  const by = new Map<string, ReceivedEvent[]>();
  for (const move of all)
    for (const key of [`${move.shop} e ${move.formerEmail}`, `${move.shop} v ${move.visitor}`])
      by.set(key, [...(by.get(key) ?? []), move]);
  return (shop: string, events: readonly ReceivedEvent[]): ReceivedEvent[] => {
    if (by.size === 0) return [];
    const found = new Set<ReceivedEvent>();
    const waiting = [...events];
    for (const { email, visitor } of waiting) {
      const keys = [
        ...(email === null ? [] : [`${shop} e ${email}`]),
        ...(visitor === null ? [] : [`${shop} v ${visitor}`]),
      ];
      for (const move of keys.flatMap((key) => by.get(key) ?? []))
        if (!found.has(move)) {
          found.add(move);
          waiting.push(move);
        }
    }
    return [...found];
  };
}
