import { Option, type Command } from 'commander';
import { atOption, withSource, type SourceOptions } from '../options.ts';
import { print } from '../output/print.ts';
import { dim } from '../output/style.ts';
import { sourceFrom } from '../source/source-from.ts';

/** `kleidon suggest`: the pages that someone may have meant who asked for one that is not there. */
export function addSuggest(program: Command): void {
  withSource(program.command('suggest'))
    .description(
      'tell the pages closest to an address where nothing is, of those that a visitor reaches',
    )
    .argument('<address>', 'what was asked for')
    .addOption(new Option('--as <visitor>', 'a visitor of the site file').makeOptionMandatory())
    .addOption(atOption())
    .addHelpText(
      'after',
      '\nExample:\n  kleidon suggest /crew/rotta --as wren --file www.site.yaml',
    )
    .action(
      async (
        address: string,
        options: SourceOptions & { as: string; at?: string; json?: boolean },
      ) => {
        const pages = await (
          await sourceFrom(options)
        ).suggestPages(address, options.as, options.at);
        print(options.json, { pages }, () =>
          pages.length === 0
            ? 'Nothing is close to it.'
            : pages.map((page) => `${page.address} ${dim(page.title)}`).join('\n'),
        );
      },
    );
}
