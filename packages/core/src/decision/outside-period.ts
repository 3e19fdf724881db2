import type { NamedRule, Told } from '../model/reason.ts';
import type { Period } from '../model/site.ts';

/** Why a rule does not apply at a moment, whoever asks; null when it does. */
export function outsidePeriod(
  rule: NamedRule,
  { validFrom, validUntil }: Period,
  at: number,
): Told<'not-yet' | 'no-longer'> | null {
  if (validFrom !== null && at < validFrom)
    return { code: 'not-yet', values: { ...rule, validFrom } };
  return validUntil !== null && at >= validUntil
    ? { code: 'no-longer', values: { ...rule, validUntil } }
    : null;
}
