import type { Guarantee } from '../model/guarantee.ts';
import type { Period, Site } from '../model/site.ts';

/** The moments at which something changes by a date of the site, in milliseconds since 1970, in order. */
export function datesOf(site: Site): number[] {
  const rules: readonly (readonly Period[])[] = [
    site.pages,
    site.gates,
    site.redirects,
    site.rewrites,
  ];
  const dates = new Set<number>();
  for (const { validFrom, validUntil } of rules.flat()) {
    if (validFrom !== null) dates.add(validFrom);
    if (validUntil !== null) dates.add(validUntil);
  }
  return [...dates].sort((a, b) => a - b);
}

/**
 * The beginnings of the stretches of time for which a guarantee is given, in each of which no date of the site changes
 * anything. Purchases are no dates: they may begin and end at any moment.
 *
 * @param dates of the site
 * @param at the moment from which on it holds at the earliest, in milliseconds since 1970
 * @returns none where its time is over
 */
export function stretchesOf(dates: readonly number[], guarantee: Guarantee, at: number): number[] {
  const begin = Math.max(at, guarantee.validFrom ?? at);
  const end = guarantee.validUntil ?? Infinity;
  if (begin >= end) return [];
  return [begin, ...dates.filter((date) => date > begin && date < end)];
}
