import type { Command } from 'commander';
import { OUTCOME_WORDS } from '@kleidon/client';
import type { decisions } from '@kleidon/core';
import { needSomeone, withSomeone, withSource, type AboutOptions } from '../options.ts';
import { print } from '../output/print.ts';
import { dim } from '../output/style.ts';
import { sourceFrom } from '../source/source-from.ts';

/** `kleidon visible`: which parts of a page, and which of some links, a visitor should see. */
export function addVisible(program: Command): void {
  withSource(
    withSomeone(
      program
        .command('visible')
        .description('say which parts and which links a visitor should see'),
    ),
  )
    .argument('[links...]', 'addresses that a menu or a page links to')
    .addHelpText(
      'after',
      `
A link is visible when a visit to it ends at a page or on another site; one that ends at a refusal, to
sign-in or to nothing is not.

Example:
  kleidon visible / /crew /members /shop --as mia --file www.site.yaml`,
    )
    .action(async (links: string[], options: AboutOptions) => {
      needSomeone(options);
      const visible = await (await sourceFrom(options)).visible(options, links);
      print(options.json, visible, () => printVisible(visible));
    });
}

function printVisible({ visitor, parts, links, menus }: decisions.Visible): string {
  const line = (visible: boolean, what: string, why: string): string =>
    `${visible ? 'visible' : 'hidden '}  ${what} ${dim(why)}`;
  const lines = [
    ...parts.map(({ name, visible }) => line(visible, `part ${name}`, '')),
    ...links.map(({ address, visible, outcome }) =>
      line(visible, address, OUTCOME_WORDS[outcome].word),
    ),
    ...menus.flatMap((menu) =>
      menu.links.map(({ address, visible, outcome }) =>
        line(visible, `menu ${menu.name} ${address}`, OUTCOME_WORDS[outcome].word),
      ),
    ),
  ];
  return lines.length === 0
    ? `Nothing was asked about: the site has no parts and menus. Name links for ${visitor}.`
    : lines.map((one) => one.trimEnd()).join('\n');
}
