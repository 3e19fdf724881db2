import { Option, type Command } from 'commander';
import type { model } from '@kleidon/core';
import { writeFile } from '../write-file.ts';
import { EXIT } from '../exit.ts';
import { withSource, type SourceOptions } from '../options.ts';
import { fileOf, hasFailed, printCheck } from '../output/check.ts';
import { checkAsJunit } from '../output/junit.ts';
import { print } from '../output/print.ts';
import { sourceFrom } from '../source/source-from.ts';

const SEVERITIES = ['high', 'medium', 'low'] as const;

interface CheckOptions extends SourceOptions {
  readonly json?: boolean;
  readonly failOn?: model.Finding['severity'];
  readonly junit?: string;
}

/** `kleidon check`: what is wrong with a site file, and what looks wrong. */
export function addCheck(program: Command): void {
  withSource(program.command('check'))
    .description('say what is wrong with a site file, where, and how to fix it')
    .addOption(failOnOption())
    .addOption(new Option('--junit <file>', 'write a report in JUnit XML here too'))
    .addHelpText(
      'after',
      `
Exit code 1 when the site file has errors, or breaks a guarantee; findings alone give 0, unless --fail-on says otherwise.

Examples:
  kleidon check --file www.site.yaml
  kleidon check --file www.site.yaml --fail-on high --junit check.xml
  kleidon check --site merrow-point --state live --json`,
    )
    .action(async (options: CheckOptions) => {
      const check = await (await sourceFrom(options)).check();
      const counts = countsFrom(options.failOn);
      if (options.junit !== undefined)
        writeFile(
          options.junit,
          checkAsJunit('kleidon check', fileOf(options), { ...check, visits: [] }, counts),
        );
      print(options.json, check, () => printCheck(check, options));
      if (hasFailed(check, counts)) process.exitCode = EXIT.failed;
    });
}

/** The option that makes findings of a severity count. */
export const failOnOption = (): Option =>
  new Option(
    '--fail-on <severity>',
    'exit code 1 for findings of this severity, or higher, too',
  ).choices([...SEVERITIES]);

/** Tells the findings that count as failures: those of a severity, or higher; none where nothing is said. */
export const countsFrom =
  (failOn: model.Finding['severity'] | undefined) =>
  ({ severity }: model.Finding): boolean =>
    failOn !== undefined && SEVERITIES.indexOf(severity) <= SEVERITIES.indexOf(failOn);
