import { Temporal } from 'temporal-polyfill';

/** Temporal accepts more forms of ISO 8601 than a site file, and reads a leap second as the second before. */
const DATE_TIME =
  /^\d{4}-\d{2}-\d{2}(?:[T ]\d{2}:\d{2}(?::[0-5]\d(?:\.\d{1,9})?)?(Z|[+-]\d{2}:\d{2})?)?$/;

/** Whether `zone` is a time zone of the IANA database that this machine knows. */
export function isTimeZone(zone: string): boolean {
  try {
    Intl.DateTimeFormat('en-GB', { timeZone: zone });
    return true;
  } catch {
    return false;
  }
}

/**
 * Reads a date or date-time (RFC 3339, or ISO 8601 without an offset). If a local time occurs twice, the earlier moment
 * counts. If it is skipped, the offset before the change applies (RFC 5545, 3.3.5).
 *
 * @param text a date (`2027-03-01`, midnight) or a date-time; without an offset it is local to `zone`
 * @param zone an IANA time zone
 * @returns milliseconds since 1970-01-01T00:00:00Z, or null when `text` is no real date
 */
export function readInstant(text: string, zone: string): number | null {
  const match = DATE_TIME.exec(text);
  if (!match) return null;
  try {
    return match[1] === undefined
      ? Temporal.PlainDateTime.from(text).toZonedDateTime(zone).epochMilliseconds
      : Temporal.Instant.from(text).epochMilliseconds;
  } catch (error) {
    if (error instanceof RangeError) return null;
    throw error;
  }
}

/** Prints an instant as RFC 3339 in UTC, without the milliseconds when there are none. */
export function printInstant(at: number): string {
  if (at !== printed.at) printed = { at, text: new Date(at).toISOString().replace('.000Z', 'Z') };
  return printed.text;
}

/** The last one: all visits of a grid are made at the same. */
let printed = { at: NaN, text: '' };

/**
 * Prints the day on which an instant falls in `zone`, as people write it in a site file.
 *
 * @param at milliseconds since 1970
 * @param zone a name of the IANA time zone database
 */
export function printDay(at: number, zone: string): string {
  const there = Temporal.Instant.fromEpochMilliseconds(at)
    .toZonedDateTimeISO(zone)
    .toPlainDateTime();
  const isMidnight = there.toPlainTime().equals('00:00');
  return isMidnight
    ? String(there.toPlainDate())
    : there.toString({ smallestUnit: 'minute' }).replace('T', ' ');
}
