import type { Command } from 'commander';
import { countPages, FULL_ACCESS, OUTCOME_WORDS } from '@kleidon/client';
import type { queries } from '@kleidon/core';
import { needSomeone, withSomeone, withSource, type AboutOptions } from '../options.ts';
import { print } from '../output/print.ts';
import { bold, count, dim, paint } from '../output/style.ts';
import { sourceFrom } from '../source/source-from.ts';

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
      const found = await (await sourceFrom(options)).reachedBy(options);
      print(options.json, found, () => printReached(found));
    });
}

function printReached({ title, summary, reached, others }: queries.ReachedBy): string {
  const all = [...reached, ...others];
  const isDivided = ({ address }: queries.ReachedPage): boolean =>
    all.filter((one) => one.address === address).length > 1;
  const shown = (page: queries.ReachedPage): string =>
    page.where === null && isDivided(page) ? page.example : page.address;
  const width = Math.max(...all.map((page) => shown(page).length), 0);
  const lineOf = (page: queries.ReachedPage, sign: string, told: string): string => {
    const of =
      shown(page) !== page.address ? [`of ${[page.address, ...page.within].join(', ')}`] : [];
    const where = page.where === null ? [] : [`where ${page.where}`];
    const addresses = [...of, ...where].join(' ');
    return `  ${paint[page.outcome](sign)} ${shown(page).padEnd(width)}  ${told}${addresses && dim(`  ${addresses}`)}`;
  };
  return [
    `${bold(title)} ${dim(`(${summary})`)} reaches ${count(countPages(reached), 'page')}:`,
    ...reached.map((page) =>
      lineOf(page, (page.fullAccess ? FULL_ACCESS : OUTCOME_WORDS.reach).sign, dim(page.title)),
    ),
    '',
    `and not ${count(countPages(others), 'page')}:`,
    ...others.map((page) => {
      const { example, outcome, status, final } = page;
      const { sign, word } = OUTCOME_WORDS[outcome];
      const at = final === example ? '' : ` at ${final}`;
      return lineOf(page, sign, `${word}, ${status}${at}`);
    }),
  ].join('\n');
}
