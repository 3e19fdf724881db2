import { Option, type Command } from 'commander';
import { OUTCOME_WORDS } from '@kleidon/client';
import { addressesIn, writeTable, type ListedVisit } from '@kleidon/core';
import { atOption, collect, withSource, type SourceOptions } from '../options.ts';
import { print } from '../output/print.ts';
import { count, dim, paint } from '../output/style.ts';
import { plainTable } from '../output/table.ts';
import { readText, sourceFrom } from '../source.ts';

interface VisitListOptions extends SourceOptions {
  readonly as?: string[];
  readonly at?: string;
  readonly csv?: boolean;
  readonly json?: boolean;
}

const COLUMNS = ['asked', 'visitor', 'outcome', 'status', 'final', 'hops'] as const;

/** `kleidon visit-list`: where many addresses end, and after how many hops. */
export function addVisitList(program: Command): void {
  withSource(program.command('visit-list'))
    .description('ask for many addresses, and tell where each ends')
    .argument('<list>', 'a file with an address on each line; - reads standard input')
    .addOption(
      new Option(
        '--as <visitor>',
        'only as this visitor of the site file; all by default',
      ).argParser(collect),
    )
    .addOption(atOption())
    .addOption(new Option('--csv', 'print CSV').conflicts('json'))
    .addHelpText(
      'after',
      `
Examples:
  kleidon visit-list old-addresses.txt --as gale --file www.site.yaml
  kleidon visit-list - --csv --file www.site.yaml < old-addresses.txt > ends.csv`,
    )
    .action(async (list: string, options: VisitListOptions) => {
      const addresses = addressesIn(readText(list));
      const visits = await sourceFrom(options).visitList(addresses, options.as, options.at);
      if (options.csv) process.stdout.write(writeTable(visits, COLUMNS));
      else print(options.json, { visits }, () => asTable(visits));
    });
}

function asTable(visits: readonly ListedVisit[]): string {
  const rows = visits.map(({ asked, visitor, outcome, status, final, hops, fullAccess }) => {
    const { sign, word } = OUTCOME_WORDS[outcome];
    const end = `${sign} ${word} ${status}${fullAccess ? ', by full access' : ''}`;
    return [asked, visitor, paint[outcome](end), hops, final];
  });
  const head = ['asked', 'visitor', 'outcome', 'hops', 'ends at'].map((one) => dim(one));
  return `${plainTable(head, rows)}\n${count(visits.length, 'visit')}`;
}
