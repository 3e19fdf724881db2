import type { Command } from 'commander';
import { EXIT } from '../exit.ts';
import { withSource, type SourceOptions } from '../options.ts';
import { printCheck } from '../output/check.ts';
import { print } from '../output/print.ts';
import { sourceFrom } from '../source.ts';

/** `kleidon check`: what is wrong with a site file, and what looks wrong. */
export function addCheck(program: Command): void {
  withSource(program.command('check'))
    .description('say what is wrong with a site file, where, and how to mend it')
    .addHelpText(
      'after',
      `
Exit code 1 when the site file has errors; findings alone give 0.

Examples:
  kleidon check --file www.site.yaml
  kleidon check --site merrow-point --state live --json`,
    )
    .action(async (options: SourceOptions & { json?: boolean }) => {
      const check = await sourceFrom(options).check();
      print(options.json, check, () => printCheck(check));
      if (check.errors.length > 0) process.exitCode = EXIT.failed;
    });
}
