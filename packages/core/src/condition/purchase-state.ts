import type { AskedPurchase } from '../model/condition.ts';
import type { Purchase } from '../model/visitor.ts';
import { phaseAt } from '../time/period.ts';

/** How a purchase stands at a moment; `upcoming` before it begins. */
export type PurchaseState = Exclude<AskedPurchase, 'ever'> | 'upcoming';

/**
 * How a purchase stands at a moment.
 * @param grace how long it is in force after its end, in milliseconds
 * @param at in milliseconds since 1970
 */
export function stateOf(
  { from, until, refunded, paused }: Purchase,
  grace: number,
  at: number,
): PurchaseState {
  if (refunded) return 'refunded';
  if (paused) return 'paused';
  const phase = phaseAt(from, until === null ? null : until + grace, at);
  return phase === 'before' ? 'upcoming' : phase === 'after' ? 'lapsed' : 'in-force';
}
