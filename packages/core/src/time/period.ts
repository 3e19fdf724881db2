/** Where a moment is in relation to a period. */
export type Phase = 'before' | 'during' | 'after';

/**
 * Tells where a moment is in relation to a period: the first moment belongs to it, the last does not.
 *
 * @param from the first moment, in milliseconds since 1970; null where there is none
 * @param until the last one; null where there is none
 * @param at the moment that is asked about
 */
export function phaseAt(from: number | null, until: number | null, at: number): Phase {
  if (from !== null && at < from) return 'before';
  return until !== null && at >= until ? 'after' : 'during';
}

/** Whether something is in force at a moment, in milliseconds since 1970. */
export const isInForce = (
  {
    validFrom,
    validUntil,
  }: { readonly validFrom: number | null; readonly validUntil: number | null },
  at: number,
): boolean => phaseAt(validFrom, validUntil, at) === 'during';
