import { Option, type Command } from 'commander';
import { writeFile } from '../write-file.ts';
import { withSource, type SourceOptions } from '../options.ts';
import { print } from '../output/print.ts';
import { sourceFrom } from '../source/source-from.ts';
import { compared } from './compare.ts';

interface ReportOptions extends SourceOptions {
  readonly since?: string;
  readonly json?: boolean;
}

/** `kleidon report`: one page for a person who signs a site off. */
export function addReport(program: Command): void {
  withSource(
    program
      .command('report')
      .description('write one self-contained page for a person who signs off')
      .argument('<html>', 'the file to write'),
  )
    .addOption(
      new Option(
        '--since <state>',
        'tell what changed since this state (live, the number of a release), or site file',
      ),
    )
    .addHelpText(
      'after',
      `
It has the reach grid, who reaches each page in words, the guarantees with their proofs, the expected visits, the
findings, and what changed for whom; it needs no service and no network to be read, and can be printed.

Examples:
  kleidon report www.html --file www.site.yaml
  kleidon report www.html --site www --since live`,
    )
    .action(async (html: string, options: ReportOptions) => {
      // It is loaded where it is needed only: it takes as long to load as most commands take.
      const { reportOf } = await import('../report/report.tsx');
      const source = await sourceFrom(options);
      const check = await source.check();
      const isReadable = check.errors.length === 0;
      const { since, file, state } = options;
      const report = reportOf({
        state: file ?? (state === 'draft' ? 'The draft' : `State ${state}`),
        check,
        grid: isReadable ? await source.grid({}) : null,
        pages: isReadable ? await source.pages() : [],
        changes:
          since !== undefined && isReadable
            ? { since, comparison: await compared(since, file ?? state, options) }
            : null,
      });
      writeFile(html, report);
      print(options.json, { file: html }, () => `The report is in ${html}.`);
    });
}
