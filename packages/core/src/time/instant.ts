const DATE_TIME =
  /^(\d{4})-(\d{2})-(\d{2})(?:[T ](\d{2}):(\d{2})(?::(\d{2})(?:\.(\d{1,3}))?)?)?(Z|[+-]\d{2}:\d{2})?$/;

const formatters = new Map<string, Intl.DateTimeFormat>();

/** Whether `zone` is a time zone of the IANA database that this machine knows. */
export function isTimeZone(zone: string): boolean {
  try {
    formatterFor(zone);
    return true;
  } catch {
    return false;
  }
}

/**
 * Reads a date or date-time (RFC 3339, or ISO 8601 without an offset).
 *
 * @param text a date (`2027-03-01`, midnight) or a date-time; without an offset it is local to `zone`
 * @param zone an IANA time zone
 * @returns milliseconds since 1970-01-01T00:00:00Z, or null when `text` is no real date
 */
export function readInstant(text: string, zone: string): number | null {
  const match = DATE_TIME.exec(text);
  if (!match) return null;
  const [, year, month, day, hour = '0', minute = '0', second = '0', fraction = '0', offset] =
    match;
  const wall = Date.UTC(
    +year!,
    +month! - 1,
    +day!,
    +hour,
    +minute,
    +second,
    +fraction.padEnd(3, '0'),
  );
  const parts = new Date(wall);
  const isReal =
    parts.getUTCMonth() === +month! - 1 &&
    parts.getUTCDate() === +day! &&
    +hour < 24 &&
    +minute < 60 &&
    +second < 60;
  if (!isReal) return null;
  if (offset === 'Z') return wall;
  if (offset) return wall - offsetMinutes(offset) * 60_000;
  // The zone's offset depends on the instant we look for; two rounds settle it around a clock change.
  const guess = wall - zoneOffset(wall, zone);
  return wall - zoneOffset(guess, zone);
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
  const text = new Date(at + zoneOffset(at, zone)).toISOString();
  return text.endsWith('T00:00:00.000Z') ? text.slice(0, 10) : text.slice(0, 16).replace('T', ' ');
}

function offsetMinutes(offset: string): number {
  const minutes = +offset.slice(1, 3) * 60 + +offset.slice(4, 6);
  return offset.startsWith('-') ? -minutes : minutes;
}

function zoneOffset(at: number, zone: string): number {
  if (zone === 'UTC') return 0;
  const field: Record<string, number> = {};
  for (const { type, value } of formatterFor(zone).formatToParts(at)) field[type] = Number(value);
  const wall = Date.UTC(
    field['year']!,
    field['month']! - 1,
    field['day'],
    field['hour']! % 24,
    field['minute'],
    field['second'],
  );
  return wall - Math.floor(at / 1000) * 1000;
}

function formatterFor(zone: string): Intl.DateTimeFormat {
  let formatter = formatters.get(zone);
  if (!formatter) {
    formatter = new Intl.DateTimeFormat('en-GB', {
      timeZone: zone,
      year: 'numeric',
      month: 'numeric',
      day: 'numeric',
      hour: 'numeric',
      minute: 'numeric',
      second: 'numeric',
      hour12: false,
    });
    formatters.set(zone, formatter);
  }
  return formatter;
}
