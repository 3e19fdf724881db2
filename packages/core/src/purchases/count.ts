import { graceOf, type Products } from '../condition/product-terms.ts';
import { stateOf } from '../condition/purchase-state.ts';
import type { ShopEvent } from '../model/shop-event.ts';
import { standingsOf, type LedgerPurchase, type Standing } from './ledger.ts';

/** How many purchases stand how; one that is in grace, or not renewed, is in force too. */
export interface PurchaseCounts {
  inForce: number;
  inGrace: number;
  notRenewed: number;
  paused: number;
  refunded: number;
  lapsed: number;
  upcoming: number;
}

/** The purchases of one product. */
export interface ProductCount {
  readonly product: string;
  readonly now: PurchaseCounts;
  /** How many are in force at each of the moments that were asked for. */
  readonly inForceAt: readonly number[];
  /** How many end between each two of the moments that were asked for. */
  readonly ending: readonly number[];
}

/** What is counted: at which moments, each in milliseconds since 1970 and in order. */
export interface CountedMoments {
  readonly now: number;
  readonly inForceAt: readonly number[];
  /** The bounds of the spans in which ends are counted. */
  readonly ending: readonly number[];
}

/** Counts purchases one after the other: there may be more of them than fit into memory. */
export function purchaseCounter(products: Products, { now, inForceAt, ending }: CountedMoments) {
  const counts = new Map<string, ProductCount>();
  const of = (product: string): ProductCount => {
    let count = counts.get(product);
    if (!count) {
      const zeros = (length: number): number[] => Array.from({ length }, () => 0);
      const none = { inForce: 0, inGrace: 0, notRenewed: 0, paused: 0 };
      count = {
        product,
        now: { ...none, refunded: 0, lapsed: 0, upcoming: 0 },
        inForceAt: zeros(inForceAt.length),
        ending: zeros(Math.max(ending.length - 1, 0)),
      };
      counts.set(product, count);
    }
    return count;
  };
  const state = (purchase: LedgerPurchase, at: number) =>
    stateOf(purchase, graceOf(purchase.product, products), at);

  return {
    /**
     * @param events those of one purchase
     * @returns whether it was made, at any time
     */
    add(events: readonly ShopEvent[]): boolean {
      const standings = standingsOf(events);
      const current = standingAt(standings, now);
      if (current) countNow(of(current.product).now, current, state(current, now), now);
      for (let i = inForceAt.length - 1, last = standings.length - 1; i >= 0; i--) {
        const at = inForceAt[i]!;
        while (last >= 0 && standings[last]!.since > at) last--;
        if (last < 0) break;
        const then = standings[last]!.purchase;
        if (state(then, at) === 'in-force') (of(then.product).inForceAt as number[])[i]!++;
      }
      if (current?.until != null && !current.refunded && !current.paused) {
        const { until, product } = current;
        const span = ending.findLastIndex((from) => from <= until);
        if (span !== -1 && span < ending.length - 1) (of(product).ending as number[])[span]!++;
      }
      return standings.length > 0;
    },
    /** What was counted, in the order of the names of the products. */
    counts: (): ProductCount[] =>
      [...counts.values()].sort((a, b) => (a.product < b.product ? -1 : 1)),
  };
}

function countNow(
  counts: PurchaseCounts,
  { until, isCancelled }: LedgerPurchase,
  state: ReturnType<typeof stateOf>,
  now: number,
): void {
  if (state !== 'in-force') {
    counts[state]++;
    return;
  }
  counts.inForce++;
  if (until !== null && now >= until) counts.inGrace++;
  else if (isCancelled) counts.notRenewed++;
}

/** How a purchase stood at a moment; null before it was made. */
const standingAt = (standings: readonly Standing[], at: number): LedgerPurchase | null =>
  standings.findLast(({ since }) => since <= at)?.purchase ?? null;
