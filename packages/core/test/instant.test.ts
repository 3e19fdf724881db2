import { isTimeZone, printDay, readInstant } from '../src/time/instant.ts';

describe('instants', () => {
  test.each([
    ['2027-03-01', 'UTC', '2027-03-01T00:00:00.000Z'],
    ['2027-07-01', 'Europe/London', '2027-06-30T23:00:00.000Z'],
    ['2027-01-01', 'Europe/London', '2027-01-01T00:00:00.000Z'],
    ['2027-03-28T12:00', 'Europe/London', '2027-03-28T11:00:00.000Z'],
    ['2027-07-01', 'America/New_York', '2027-07-01T04:00:00.000Z'],
    ['2027-03-01T09:30:15Z', 'America/New_York', '2027-03-01T09:30:15.000Z'],
    ['2027-03-01 09:30+02:00', 'UTC', '2027-03-01T07:30:00.000Z'],
    ['0001-01-01', 'UTC', '0001-01-01T00:00:00.000Z'],
    // The clocks show the hour twice: the earlier one counts.
    ['2026-10-25T01:30', 'Europe/London', '2026-10-25T00:30:00.000Z'],
    ['2026-11-01T01:30', 'America/New_York', '2026-11-01T05:30:00.000Z'],
    // The clocks skip the hour, or midnight.
    ['2026-03-29T01:30', 'Europe/London', '2026-03-29T01:30:00.000Z'],
    ['2024-09-08', 'America/Santiago', '2024-09-08T04:00:00.000Z'],
    ['2024-03-10', 'America/Havana', '2024-03-10T05:00:00.000Z'],
    ['2024-03-31', 'Atlantic/Azores', '2024-03-31T01:00:00.000Z'],
  ])('%s in %s is %s', (text, zone, expected) => {
    expect(new Date(readInstant(text, zone)!).toISOString()).toBe(expected);
  });

  test.each([
    '2027-02-30',
    '2027-13-01',
    '2027-3-1',
    'tomorrow',
    '2027-03-01T25:00',
    '',
    '2026-01-01T00:00+25:00',
    '2026-01-01T00:00+01:60',
  ])('%j is no date', (text) => {
    expect(readInstant(text, 'UTC')).toBeNull();
  });

  test('a day is printed as people of the zone write it', () => {
    expect(printDay(readInstant('2027-07-01', 'Europe/London')!, 'Europe/London')).toBe(
      '2027-07-01',
    );
    expect(printDay(readInstant('2027-07-01T08:15', 'Europe/London')!, 'Europe/London')).toBe(
      '2027-07-01 08:15',
    );
  });

  test('time zones are those of the IANA database', () => {
    expect(isTimeZone('Europe/London')).toBe(true);
    expect(isTimeZone('Merrow/Point')).toBe(false);
  });
});
