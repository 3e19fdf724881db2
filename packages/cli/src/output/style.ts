import { randomInt } from 'node:crypto';
import chalk from 'chalk';
import type { decisions } from '@kleidon/core';

/** Marks the program's own colours. Colour codes in page titles lack this random mark and are removed. */
export const OWN = `${randomInt(1000, 9999)};${randomInt(1000, 9999)}`;

const styled =
  (open: number, close: number) =>
  (text: string): string =>
    chalk.level === 0 ? text : `\u001b[${open};${OWN}m${text}\u001b[${close};${OWN}m`;

export const bold = styled(1, 22);
export const dim = styled(2, 22);
export const red = styled(31, 39);
export const green = styled(32, 39);
export const yellow = styled(33, 39);

/** Colours repeat what signs and words say already; there are none in a pipe or with NO_COLOR. */
export const paint: Readonly<Record<decisions.Outcome, (text: string) => string>> = {
  reach: green,
  'sign-in': styled(36, 39),
  block: red,
  missing: dim,
  away: styled(34, 39),
  loop: styled(35, 39),
  invalid: yellow,
};

/** How wide the terminal is; null in a pipe, where nothing is cut. */
export function terminalWidth(): number | null {
  return process.stdout.isTTY ? process.stdout.columns : null;
}

/** “1 error”, “2 errors”. */
export const count = (number: number, one: string, many = `${one}s`): string =>
  `${number} ${number === 1 ? one : many}`;
