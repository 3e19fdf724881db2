import { Option, type Command } from 'commander';
import type { queries } from '@kleidon/core';
import { atOption, withSource, type AboutOptions } from '../options.ts';
import { print } from '../output/print.ts';
import { bold, dim } from '../output/style.ts';
import { sourceFrom } from '../source.ts';

/** `kleidon who-reaches`: everyone who reaches a page, in words, from the rules themselves. */
export function addWhoReaches(program: Command): void {
  withSource(
    program
      .command('who-reaches')
      .description('say in words who reaches a page')
      .argument('<page>', 'an address of the page'),
  )
    .addOption(
      new Option('--right <right>', 'to view it, or to change it')
        .default('view')
        .choices(['view', 'change']),
    )
    .addOption(atOption())
    .addHelpText(
      'after',
      `
The answer comes from the rules and holds for every visitor there could be, not only for those of the site file.

Examples:
  kleidon who-reaches /permit --file www.site.yaml
  kleidon who-reaches /crew/rota --right change --file www.site.yaml`,
    )
    .action(async (address: string, options: AboutOptions & { right: string }) => {
      const { right, at, json } = options;
      const found = await sourceFrom(options).whoReaches({ address, right, at });
      print(json, found, () => printWho(found, right));
    });
}

function printWho(
  { address, title, words, byFullAccess, closed, gates, leadsTo, condition }: queries.WhoReaches,
  right: string,
): string {
  const verb = right === 'view' ? 'reached' : 'changed';
  return [
    `${bold(address)} ${dim(title)} is ${verb} by ${bold(words)}.`,
    ...(closed === null ? [] : [closed]),
    ...(byFullAccess === null ? [] : [`By full access: ${byFullAccess}.`]),
    ...(leadsTo === null ? [] : [`It redirects to ${leadsTo}.`]),
    dim(gates.length === 0 ? 'No gate covers it.' : `Gates: ${gates.join(', then ')}.`),
    dim(`As a condition: ${condition}`),
  ].join('\n');
}
