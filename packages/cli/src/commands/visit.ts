import { Option, type Command } from 'commander';
import { OUTCOMES, type Outcome } from '@kleidon/core';
import { EXIT, Stop } from '../exit.ts';
import {
  atOption,
  fileOption,
  jsonOption,
  serviceOption,
  siteOption,
  stateOption,
  type SourceOptions,
} from '../options.ts';
import { print } from '../output/print.ts';
import { printVisit } from '../output/visit.ts';
import { sourceFrom } from '../source.ts';

interface VisitOptions extends SourceOptions {
  readonly as?: string;
  readonly visitor?: string;
  readonly at?: string;
  readonly method: string;
  readonly expect?: Outcome;
  readonly json?: boolean;
}

/** `kleidon visit`: one request by one visitor, with every hop and why. */
export function addVisit(program: Command): void {
  program
    .command('visit')
    .description('make a visit, and explain each hop')
    .argument('<address>', 'a path of the site, or a whole address')
    .addOption(new Option('--as <visitor>', 'a visitor of the site file'))
    .addOption(
      new Option(
        '--visitor <yaml>',
        "a visitor made up on the spot, such as '{ roles: [warden] }'",
      ).conflicts('as'),
    )
    .addOption(atOption())
    .addOption(
      new Option('--method <method>', 'the HTTP method')
        .default('GET')
        .argParser((text) => text.toUpperCase()),
    )
    .addOption(
      new Option('--expect <outcome>', 'exit with 1 unless the visit ends so').choices([
        ...OUTCOMES,
      ]),
    )
    .addOption(fileOption())
    .addOption(siteOption())
    .addOption(stateOption())
    .addOption(serviceOption())
    .addOption(jsonOption())
    .addHelpText(
      'after',
      `
Examples:
  kleidon visit /crew/rota --as gale --file www.site.yaml
  kleidon visit /permit --visitor '{ bought: [{ product: hide-permit }] }' --file www.site.yaml
  kleidon visit /spring-count --as mia --at 2027-04-01
  kleidon visit /crew --as gale --expect sign-in --file www.site.yaml`,
    )
    .action(async (address: string, options: VisitOptions) => {
      const { as, visitor, at, method, expect, json } = options;
      if (as === undefined && visitor === undefined) {
        throw new Stop(
          EXIT.wrongUse,
          "Say who visits: --as NAME, or --visitor '{ roles: [warden] }'.",
        );
      }
      const made = await sourceFrom(options).visit({
        address,
        method,
        ...(as === undefined ? {} : { as }),
        ...(visitor === undefined ? {} : { visitor }),
        ...(at === undefined ? {} : { at }),
      });
      print(json, made, () => printVisit(made));
      if (expect !== undefined && made.outcome !== expect) {
        throw new Stop(EXIT.failed, `Expected ${expect}, and the visit ended as ${made.outcome}.`);
      }
    });
}
