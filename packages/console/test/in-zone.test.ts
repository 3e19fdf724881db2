import { inZone, MOMENT } from '../src/live/in-zone.ts';

const own = Intl.DateTimeFormat().resolvedOptions().timeZone;
const at = new Date('2026-07-01T23:30:00Z');

test('a moment is told as clocks of the site show it, only where they show something else', () => {
  expect(inZone(at, own)).toBeNull();
  const east = inZone(at, 'Pacific/Kiritimati')!;
  const west = inZone(at, 'Pacific/Pago_Pago')!;
  expect(new Set([east, west, MOMENT.format(at)]).size).toBe(3);
  // It is the next day there, which the time alone would not tell.
  expect(east).toContain('2026');
});

test('where the day is the same, the time is enough', () => {
  const offset = -at.getTimezoneOffset() / 60;
  const noon = new Date(Date.UTC(2026, 6, 1, 12 - offset));
  // Names of fixed zones have the sign turned (IANA time zone database, file etcetera).
  const next = offset + 1;
  const zone = `Etc/GMT${next > 0 ? '-' : '+'}${Math.abs(next)}`;
  expect(inZone(noon, zone)).toMatch(/^\D*1(?::00 PM|3:00)/);
});
