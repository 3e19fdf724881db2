import type { Command } from 'commander';
import { FULL_ACCESS, OUTCOME_WORDS } from '@kleidon/client';
import type { queries } from '@kleidon/core';
import { needSomeone, withSomeone, withSource, type AboutOptions } from '../options.ts';
import { print } from '../output/print.ts';
import { bold, count, dim, paint } from '../output/style.ts';
import { sourceFrom } from '../source.ts';

/** `kleidon reached-by`: everything that a visitor reaches, and where everything else leaves them. */
export function addReachedBy(program: Command): void {
  withSource(
    withSomeone(
      program
        .command('reached-by')
        .description('list what a visitor reaches, and where everything else leaves them'),
    ),
  )
    .addHelpText(
      'after',
      `
Examples:
  kleidon reached-by --as lars --file www.site.yaml
  kleidon reached-by --visitor '{ roles: [warden] }' --file www.site.yaml`,
    )
    .action(async (options: AboutOptions) => {
      needSomeone(options);
      const found = await sourceFrom(options).reachedBy(options);
      print(options.json, found, () => printReached(found));
    });
}

function printReached({ title, summary, reached, others }: queries.ReachedBy): string {
  const width = Math.max(...[...reached, ...others].map(({ address }) => address.length), 0);
  return [
    `${bold(title)} ${dim(`(${summary})`)} reaches ${count(reached.length, 'page')}:`,
    ...reached.map(
      ({ address, title: page, fullAccess }) =>
        `  ${paint.reach((fullAccess ? FULL_ACCESS : OUTCOME_WORDS.reach).sign)} ${address.padEnd(width)}  ${dim(page)}`,
    ),
    '',
    `and not ${count(others.length, 'page')}:`,
    ...others.map(({ address, outcome, status, final }) => {
      const { sign, word } = OUTCOME_WORDS[outcome];
      return `  ${paint[outcome](sign)} ${address.padEnd(width)}  ${word}, ${status}${final === address ? '' : ` at ${final}`}`;
    }),
  ].join('\n');
}
