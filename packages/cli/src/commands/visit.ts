import { Option, type Command } from 'commander';
import { decisions } from '@kleidon/core';
import { EXIT, Stop } from '../exit.ts';
import { needSomeone, withSomeone, withSource, type AboutOptions } from '../options.ts';
import { print } from '../output/print.ts';
import { printVisit } from '../output/visit.ts';
import { sourceFrom } from '../source/source-from.ts';

interface VisitOptions extends AboutOptions {
  readonly method: string;
  readonly expect?: decisions.Outcome;
  readonly all?: boolean;
}

/** `kleidon visit`: one request by one visitor, with every hop and why. */
export function addVisit(program: Command): void {
  const command = program
    .command('visit')
    .description('make a visit, and explain each hop')
    .argument('<address>', 'a path of the site, or a whole address');
  withSource(withSomeone(command))
    .addOption(
      new Option('--method <method>', 'the HTTP method')
        .default('GET')
        .argParser((text) => text.toUpperCase()),
    )
    .addOption(
      new Option('--expect <outcome>', 'exit with 1 unless the visit ends so').choices([
        ...decisions.OUTCOMES,
      ]),
    )
    .addOption(new Option('--all', 'also the steps that had no effect'))
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
      needSomeone(options);
      const { as, visitor, at, method, expect, json } = options;
      const made = await (await sourceFrom(options)).visit({ as, visitor, at, address, method });
      print(json, made, () => printVisit(made, options.all === true));
      if (expect !== undefined && made.outcome !== expect) {
        throw new Stop(EXIT.failed, `Expected ${expect}, and the visit ended as ${made.outcome}.`);
      }
    });
}
