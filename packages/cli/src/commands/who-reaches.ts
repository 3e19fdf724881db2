import { Option, type Command } from 'commander';
import type { Right } from '@kleidon/client';
import type { queries } from '@kleidon/core';
import { atOption, withSource, type AboutOptions } from '../options.ts';
import { print } from '../output/print.ts';
import { bold, dim } from '../output/style.ts';
import { wrapped } from '../output/wrapped.ts';
import { sourceFrom } from '../source/source-from.ts';

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
Ask for the address of a page that is a pattern, and its addresses are told apart where other rules treat them
otherwise; ask for one of them, and the answer is about that one.

Examples:
  kleidon who-reaches /permit --file www.site.yaml
  kleidon who-reaches '/course/:lesson' --file www.site.yaml
  kleidon who-reaches /crew/rota --right change --file www.site.yaml`,
    )
    .action(async (address: string, options: AboutOptions & { right: Right }) => {
      const { right, at, json } = options;
      const found = await (await sourceFrom(options)).whoReaches({ address, right, at });
      print(json, found, () => printWho(found, right));
    });
}

function printWho(found: queries.WhoReaches, right: Right): string {
  const { address, example, title, families, leadsTo } = found;
  const isPattern = /[:*(]/.test(address) && families.length === 0;
  const verb = right === 'view' ? 'reached' : 'changed';
  const [first, ...others] = families;
  return [
    wrapped('', `${bold(address)} ${dim(title)} is ${verb} by ${bold(found.words)}.`),
    ...(isPattern ? [dim(`Asked of ${example}.`)] : []),
    ...(first
      ? [dim(`This is so of the addresses that no other rule cuts out, such as ${first.example}.`)]
      : []),
    ...(leadsTo === null ? [] : [`It redirects to ${leadsTo}.`]),
    ...linesOf(found),
    ...others.flatMap((family) => [
      '',
      wrapped(
        '',
        `${bold(family.example)} ${dim(`of ${family.within.join(', and of ')}`)} is ${verb} by ${bold(family.words)}.`,
      ),
      ...linesOf(family),
    ]),
  ].join('\n');
}

function linesOf({
  closed,
  byFullAccess,
  gates,
  condition,
  endings,
}: queries.ReachedAddress): string[] {
  const elsewhere = endings.filter(({ outcome }) => outcome !== 'reach');
  return [
    ...(closed === null ? [] : [closed]),
    ...(byFullAccess === null ? [] : [wrapped('By full access: ', `${byFullAccess}.`)]),
    ...elsewhere.map(({ outcome, final, words }) =>
      wrapped(`${outcome}: `, `${words} ${dim(`at ${final}`)}`),
    ),
    dim(gates.length === 0 ? 'No gate covers it.' : `Gates: ${gates.join(', then ')}.`),
    dim(wrapped('As a condition: ', condition)),
  ];
}
