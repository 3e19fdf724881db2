import { phaseAt } from '../time/period.ts';
import type { NamedRule, Told } from '../model/reason.ts';
import type { Period } from '../model/site.ts';

/**
 * Why a rule does not apply at a moment, whoever asks; null when it does.
 *
 * @param at the moment, in milliseconds since 1970
 */
export function outsidePeriod(
  rule: NamedRule,
  { validFrom, validUntil }: Period,
  at: number,
): Told<'not-yet' | 'no-longer'> | null {
  const phase = phaseAt(validFrom, validUntil, at);
  if (phase === 'during') return null;
  return phase === 'before'
    ? { code: 'not-yet', values: { ...rule, validFrom: validFrom! } }
    : { code: 'no-longer', values: { ...rule, validUntil: validUntil! } };
}
