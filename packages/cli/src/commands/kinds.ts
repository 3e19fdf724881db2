import { Option, type Command } from 'commander';
import type { Kinds } from '@kleidon/client';
import { atOption, needAddress, withSource, type SourceOptions } from '../options.ts';
import { print } from '../output/print.ts';
import { bold, count, dim } from '../output/style.ts';
import { wrapped } from '../output/wrapped.ts';
import { sourceFrom } from '../source/source-from.ts';

interface KindsOptions extends SourceOptions {
  readonly under?: string;
  readonly at?: string;
  readonly json?: boolean;
}

/** `kleidon kinds`: the kinds of visitors that the rules tell apart. */
export function addKinds(program: Command): void {
  withSource(program.command('kinds'))
    .description('list the kinds of visitors that the rules tell apart')
    .addOption(new Option('--under <address>', 'only this page and those beneath it count'))
    .addOption(atOption())
    .addHelpText(
      'after',
      `
Two visitors are of one kind if the same happens to them at every page. See them in a grid: kleidon grid --kinds

Examples:
  kleidon kinds --file www.site.yaml
  kleidon kinds --under /crew --site merrow-point`,
    )
    .action(async ({ under, at, ...options }: KindsOptions) => {
      needAddress(under);
      const found = await (await sourceFrom(options)).kinds({ under, at });
      print(options.json, found, () => printKinds(found));
    });
}

function printKinds({ kinds, pages, mostTraits }: Kinds): string {
  return [
    ...kinds.flatMap(({ name, summary, pages: reached, words, visitors }) => [
      `${bold(name)} ${summary}: reaches ${reached} of ${count(pages, 'page')}${visitors.length > 0 ? dim(` (${visitors.join(', ')})`) : ''}`,
      wrapped('  ', words),
    ]),
    mostTraits === null
      ? `${count(kinds.length, 'kind')}; everyone is of one of them.`
      : `${count(kinds.length, 'kind')} of visitors who have at most ${count(mostTraits, 'role, group or purchase', 'roles, groups and purchases')}; there are too many of everyone.`,
  ].join('\n');
}
