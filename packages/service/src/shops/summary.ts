import { decisions, purchases, type model } from '@kleidon/core';
import type { ReceivedEvent } from '../store/buyer-purchases.ts';
import type { LedgerStore } from '../store/ledger.ts';
import { allPurchases } from './all-purchases.ts';

/** How many purchases of each product there are, and how many there were and will be. */
export interface PurchaseSummary {
  /** In milliseconds since 1970. */
  readonly at: number;
  readonly products: readonly purchases.ProductCount[];
  readonly moments: purchases.CountedMoments;
  /** What was told of purchases of which nobody told that they were made. */
  readonly withoutPurchase: { readonly found: number; readonly first: readonly ReceivedEvent[] };
}

const DAY = 86_400_000;
/** Months before and after this one. */
const MONTHS = 12;
const SPANS = 9;
const SPAN = 10 * DAY;
const MOST_LISTED = 100;

/** A count that took long is kept so many times as long, whatever is told meanwhile: it must not be all that is done. */
const PATIENCE = 20;
/** From how many milliseconds on it took long. */
const SLOW = 100;

interface Kept {
  readonly key: string;
  readonly summary: Promise<PurchaseSummary>;
  readonly begunAt: number;
  took: number;
}

/**
 * Counts the purchases of a site at a moment, in each month of a year before and after, and those that end in the
 * next 90 days. A count is kept until something is told, for at most a minute; longer where it takes long.
 */
export function summaries(ledger: LedgerStore, now: () => number) {
  const kept = new Map<string, Kept>();
  /** @param at the moment in milliseconds since 1970; null for now */
  return (
    sold: model.Site['products'] | null,
    site: string,
    at: number | null,
  ): Promise<PurchaseSummary> => {
    const begunAt = now();
    const name = `${site} ${at === null ? 'now' : 'then'}`;
    const minute = Math.floor((at ?? begunAt) / 60_000);
    const key = `${ledger.changes(site)} ${minute} ${JSON.stringify(sold)}`;
    const before = kept.get(name);
    const isRecent =
      at === null && begunAt - (before?.begunAt ?? 0) < PATIENCE * (before?.took ?? 0);
    if (before && (before.key === key || isRecent)) return before.summary;
    const summary = summarize(ledger, sold, site, at ?? begunAt);
    const one: Kept = { key, summary, begunAt, took: Infinity };
    kept.set(name, one);
    // What failed is tried again.
    summary.then(
      () => {
        const took = now() - begunAt;
        one.took = took < SLOW ? 0 : took;
      },
      () => kept.delete(name),
    );
    return summary;
  };
}

async function summarize(
  ledger: LedgerStore,
  sold: model.Site['products'] | null,
  site: string,
  at: number,
): Promise<PurchaseSummary> {
  const moments = {
    now: at,
    inForceAt: monthsAround(at),
    ending: Array.from({ length: SPANS + 1 }, (_, i) => at + i * SPAN),
  };
  const counter = purchases.purchaseCounter(
    sold ? decisions.productTerms(sold) : undefined,
    moments,
  );
  const first: ReceivedEvent[] = [];
  let found = 0;
  for await (const page of allPurchases(ledger, site))
    for (const { events } of page) {
      if (counter.add(events)) continue;
      found++;
      if (first.length < MOST_LISTED) first.push(events[0]!);
    }
  return { at, products: counter.counts(), moments, withoutPurchase: { found, first } };
}

/** The first days of the months around a moment, at midnight UTC. */
function monthsAround(at: number): number[] {
  const now = new Date(at);
  return Array.from({ length: 2 * MONTHS + 1 }, (_, i) =>
    Date.UTC(now.getUTCFullYear(), now.getUTCMonth() - MONTHS + i, 1),
  );
}
