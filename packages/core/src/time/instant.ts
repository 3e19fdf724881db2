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
  const parts = new Date(0);
  parts.setUTCFullYear(+year!, +month! - 1, +day!);
  parts.setUTCHours(+hour, +minute, +second, +fraction.padEnd(3, '0'));
  const wall = parts.getTime();
  const isReal =
    parts.getUTCMonth() === +month! - 1 &&
    parts.getUTCDate() === +day! &&
    +hour < 24 &&
    +minute < 60 &&
    +second < 60;
  if (!isReal) return null;
  if (offset === 'Z') return wall;
  if (offset) {
    const [hours, minutes] = [+offset.slice(1, 3), +offset.slice(4, 6)];
    if (hours > 23 || minutes > 59) return null;
    return wall - (offset.startsWith('-') ? -1 : 1) * (hours * 60 + minutes) * 60_000;
  }
  return inZone(wall, zone);
}

const DAY = 86_400_000;

/**
 * Converts a local time to a moment. If the local time occurs twice, the earlier moment counts. If it is skipped, the
 * offset before the change applies (RFC 5545, 3.3.5).
 */
function inZone(wall: number, zone: string): number {
  const before = wall - zoneOffset(wall - DAY, zone);
  const after = wall - zoneOffset(wall + DAY, zone);
  const shown = [before, after].filter((at) => at + zoneOffset(at, zone) === wall);
  return shown.length > 0 ? Math.min(...shown) : before;
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

function zoneOffset(at: number, zone: string): number {
  if (zone === 'UTC') return 0;
  const field: Record<string, number> = {};
  for (const { type, value } of formatterFor(zone).formatToParts(at)) field[type] = Number(value);
  const shown = new Date(0);
  shown.setUTCFullYear(field['year']!, field['month']! - 1, field['day']);
  shown.setUTCHours(field['hour']! % 24, field['minute'], field['second']);
  return shown.getTime() - Math.floor(at / 1000) * 1000;
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
