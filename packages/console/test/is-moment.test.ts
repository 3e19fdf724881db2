import { readInstant } from '../../core/src/time/instant.ts';
import { isMoment } from '../src/shell/is-moment.ts';

test.each([
  ['2027-03-01', true],
  ['2027-03-01 10:00', true],
  ['2027-03-01T10:00:30', true],
  ['2027-03-01T10:00:30.250Z', true],
  ['2027-03-01T23:59+05:30', true],
  ['2028-02-29', true],
  ['2027-02-29', false],
  ['2027-13-01', false],
  ['2027-00-10', false],
  ['2027-03-01T24:00', false],
  ['2027-03-01T10:60', false],
  ['2027-03-01T10', false],
  ['2027-3-1', false],
  ['1 March 2027', false],
  ['', false],
])('"%s" is a moment in the console where it is one for the service: %s', (text, expected) => {
  expect([isMoment(text), readInstant(text, 'Europe/London') !== null]).toEqual([
    expected,
    expected,
  ]);
});
