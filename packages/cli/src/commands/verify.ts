import { Option, type Command } from 'commander';
import type { model } from '@kleidon/core';
import { writeFile } from '../write-file.ts';
import { EXIT } from '../exit.ts';
import { withSource, type SourceOptions } from '../options.ts';
import { countsFrom, failOnOption } from './check.ts';
import { fileOf, hasFailed, printVerified } from '../output/check.ts';
import { checkAsJunit } from '../output/junit.ts';
import { print } from '../output/print.ts';
import { sourceFrom } from '../source/source-from.ts';

interface VerifyOptions extends SourceOptions {
  readonly json?: boolean;
  readonly failOn?: model.Finding['severity'];
  readonly junit?: string;
}

/** `kleidon verify`: all that a site file promises, for the continuous integration of a website. */
export function addVerify(program: Command): void {
  withSource(program.command('verify'))
    .description('check a site file, prove its guarantees and make its expected visits')
    .addOption(failOnOption())
    .addOption(new Option('--junit <file>', 'write a report in JUnit XML here too'))
    .addHelpText(
      'after',
      `
Exit code 1 when there are errors, when a guarantee does not hold, or when a visit does not end as expected.

Examples:
  kleidon verify --file www.site.yaml --junit verify.xml
  kleidon verify --file www.site.yaml --fail-on medium
  kleidon verify --site merrow-point --state live`,
    )
    .action(async (options: VerifyOptions) => {
      const check = await (await sourceFrom(options)).check();
      const counts = countsFrom(options.failOn);
      if (options.junit !== undefined)
        writeFile(options.junit, checkAsJunit('kleidon verify', fileOf(options), check, counts));
      print(options.json, check, () => printVerified(check, options));
      if (hasFailed(check, counts) || check.visits.some(({ isAsExpected }) => !isAsExpected))
        process.exitCode = EXIT.failed;
    });
}
