import { Option, type Command } from 'commander';
import { decisions } from '@kleidon/core';
import { EXIT, Stop } from '../exit.ts';
import { atOption, collect, needAddress, withSource, type SourceOptions } from '../options.ts';
import { printGrid } from '../output/grid.ts';
import { print } from '../output/print.ts';
import { terminalWidth } from '../output/style.ts';
import { sourceFrom } from '../source/source-from.ts';

interface GridOptions extends SourceOptions {
  readonly under?: string;
  readonly visitor?: string[];
  readonly outcome?: string[];
  readonly kinds?: boolean;
  readonly at?: string;
  readonly json?: boolean;
}

/** `kleidon grid`: pages against visitors, an outcome in each cell. */
export function addGrid(program: Command): void {
  withSource(program.command('grid'))
    .description('show which visitor reaches which page')
    .addOption(new Option('--under <address>', 'only this page and those beneath it'))
    .addOption(
      new Option('--visitor <name>', 'only this visitor; may be repeated').argParser(collect),
    )
    .addOption(
      new Option(
        '--outcome <outcome>',
        `only pages where someone meets this; may be repeated: ${decisions.OUTCOMES.join(', ')}`,
      ).argParser(collect),
    )
    .addOption(
      new Option(
        '--kinds',
        'against one visitor of each kind that the rules tell apart, in place of those of the site file',
      ),
    )
    .addOption(atOption())
    .addHelpText(
      'after',
      `
Examples:
  kleidon grid --file www.site.yaml
  kleidon grid --under /crew --visitor gale,vik --file www.site.yaml
  kleidon grid --outcome loop --outcome missing --site merrow-point
  kleidon grid --kinds --under /crew --file www.site.yaml
  kleidon grid --state live --json`,
    )
    .action(
      async ({
        under,
        visitor: visitors,
        outcome: outcomes,
        kinds,
        at,
        ...options
      }: GridOptions) => {
        const stranger = outcomes?.find(
          (one) => !(decisions.OUTCOMES as readonly string[]).includes(one),
        );
        if (stranger !== undefined) {
          throw new Stop(
            EXIT.wrongUse,
            `"${stranger}" is no outcome. There are: ${decisions.OUTCOMES.join(', ')}.`,
          );
        }
        needAddress(under);
        const grid = await (
          await sourceFrom(options)
        ).grid({
          under,
          visitors,
          outcomes: outcomes as decisions.Outcome[] | undefined,
          kinds,
          at,
        });
        print(options.json, grid, () => printGrid(grid, terminalWidth()));
      },
    );
}
