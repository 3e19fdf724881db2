import chalk from 'chalk';
import type { decisions } from '@kleidon/core';

/** Colours repeat what signs and words say already; there are none in a pipe or with NO_COLOR. */
export const paint: Readonly<Record<decisions.Outcome, (text: string) => string>> = {
  reach: chalk.green,
  'sign-in': chalk.cyan,
  block: chalk.red,
  missing: chalk.dim,
  away: chalk.blue,
  loop: chalk.magenta,
  invalid: chalk.yellow,
};

export const { bold, dim, green, red, yellow } = chalk;

/** How wide the terminal is; null in a pipe, where nothing is cut. */
export function terminalWidth(): number | null {
  return process.stdout.isTTY ? process.stdout.columns : null;
}

/** “1 error”, “2 errors”. */
export const count = (number: number, one: string, many = `${one}s`): string =>
  `${number} ${number === 1 ? one : many}`;
