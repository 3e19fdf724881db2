import { Option, type Command } from 'commander';
import type { queries } from '@kleidon/core';
import { needSomeone, withSomeone, withSource, type AboutOptions } from '../options.ts';
import { print } from '../output/print.ts';
import { printVisit } from '../output/visit.ts';
import { sourceFrom } from '../source/source-from.ts';

interface LandingOptions extends AboutOptions {
  readonly after: queries.ExplainedLanding['after'];
  readonly from?: string;
}

/** `kleidon landing`: where a visitor is taken after signing in or out, and what happens to them there. */
export function addLanding(program: Command): void {
  withSource(
    withSomeone(
      program.command('landing').description('say where a visitor lands after signing in or out'),
    ),
  )
    .addOption(
      new Option('--after <event>', 'after which')
        .choices(['sign-in', 'sign-out'])
        .makeOptionMandatory(),
    )
    .addOption(new Option('--from <address>', 'the return address'))
    .addHelpText(
      'after',
      `
Examples:
  kleidon landing --after sign-in --as wren --from /crew/rota --file www.site.yaml
  kleidon landing --after sign-out --as mia --file www.site.yaml`,
    )
    .action(async (options: LandingOptions) => {
      needSomeone(options);
      const landed = await (
        await sourceFrom(options)
      ).landing(options, options.after, options.from);
      const line = landed.place ? ` (line ${landed.place.line})` : '';
      print(
        options.json,
        landed,
        () => `${landed.reason}${line}\n\n${printVisit(landed.visit, false)}`,
      );
    });
}
