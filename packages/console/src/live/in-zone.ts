const STYLE = { dateStyle: 'medium', timeStyle: 'short' } as const;

/** As the browser of whoever looks writes a moment. */
export const MOMENT = new Intl.DateTimeFormat(undefined, STYLE);

/**
 * A moment as clocks of another zone show it; null where they show the same as those of whoever looks.
 *
 * @param zone a name of the IANA time zone database
 */
export function inZone(at: Date, zone: string): string | null {
  const there = new Intl.DateTimeFormat(undefined, { ...STYLE, timeZone: zone });
  if (there.format(at) === MOMENT.format(at)) return null;
  const day = { dateStyle: 'short' } as const;
  const isSameDay =
    new Intl.DateTimeFormat(undefined, { ...day, timeZone: zone }).format(at) ===
    new Intl.DateTimeFormat(undefined, day).format(at);
  return isSameDay
    ? new Intl.DateTimeFormat(undefined, { timeStyle: 'short', timeZone: zone }).format(at)
    : there.format(at);
}
