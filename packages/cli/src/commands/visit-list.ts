import { createReadStream, statSync } from 'node:fs';
import { createInterface } from 'node:readline';
import { Option, type Command } from 'commander';
import { addressList, OUTCOME_WORDS, type ListedAddress } from '@kleidon/client';
import { type decisions, formats } from '@kleidon/core';
import { EXIT, Stop } from '../exit.ts';
import { atOption, collect, wholeNumber, withSource, type SourceOptions } from '../options.ts';
import { print } from '../output/print.ts';
import { count, dim, paint } from '../output/style.ts';
import { plainTable } from '../output/table.ts';
import { sourceFrom } from '../source/source-from.ts';

interface VisitListOptions extends SourceOptions {
  readonly as?: string[];
  readonly at?: string;
  readonly csv?: boolean;
  readonly json?: boolean;
  readonly limit: number;
}

/** A visit to an address of a list; `times` is how often an access log has it. */
type Row = decisions.ListedVisit & { readonly times?: number };

const COLUMNS = ['address', 'visitor', 'outcome', 'status', 'final', 'hops'] as const;
const USUAL_MOST = 1000;

/** `kleidon visit-list`: where many addresses end, and after how many hops. */
export function addVisitList(program: Command): void {
  withSource(program.command('visit-list'))
    .description('ask for many addresses, and tell where each ends')
    .argument(
      '<list>',
      "a file with an address on each line, or a server's access log; - reads standard input",
    )
    .addOption(
      new Option(
        '--as <visitor>',
        'only as this visitor of the site file; all by default',
      ).argParser(collect),
    )
    .addOption(atOption())
    .addOption(
      new Option('--limit <number>', 'how many addresses of an access log, the most asked first')
        .argParser(wholeNumber(1, 20_000))
        .default(USUAL_MOST),
    )
    .addOption(new Option('--csv', 'print CSV').conflicts('json'))
    .addHelpText(
      'after',
      `
Access logs are those in Common or Combined Log Format. Of them GET and HEAD count, whatever was answered.

Examples:
  kleidon visit-list old-addresses.txt --as gale --file www.site.yaml
  kleidon visit-list /var/log/httpd/access.log --as gale --limit 200 --file www.site.yaml
  kleidon visit-list - --csv --file www.site.yaml < old-addresses.txt > ends.csv`,
    )
    .action(async (list: string, options: VisitListOptions) => {
      const all = await addressesOf(list);
      const isLog = all.some(({ times }) => times !== null);
      const wanted = isLog ? all.slice(0, options.limit) : all;
      const visits = await (
        await sourceFrom(options)
      ).visitList(
        wanted.map(({ address }) => address),
        options.as,
        options.at,
      );
      const times = new Map(wanted.map((one) => [one.address, one.times]));
      const rows = isLog
        ? visits.map((visit): Row => ({ times: times.get(visit.address) ?? 0, ...visit }))
        : visits;
      if (options.csv)
        process.stdout.write(
          formats.writeTable<Row>(rows, isLog ? ['times', ...COLUMNS] : COLUMNS),
        );
      else
        print(options.json, { visits: rows, ...(isLog ? { addresses: all.length } : {}) }, () =>
          asTable(rows, all.length - wanted.length),
        );
    });
}

/** Reads the addresses of a list line by line: an access log may not fit in memory. */
async function addressesOf(file: string): Promise<ListedAddress[]> {
  const list = addressList();
  try {
    if (file !== '-' && statSync(file).isDirectory()) throw new Error('it is a folder');
    const input = file === '-' ? process.stdin : createReadStream(file);
    for await (const line of createInterface({ input, crlfDelay: Infinity })) list.add(line);
  } catch (error) {
    throw new Stop(EXIT.wrongUse, `The file ${file} can't be read: ${(error as Error).message}.`);
  }
  return list.addresses();
}

function asTable(visits: readonly Row[], left: number): string {
  const isLog = visits.some(({ times }) => times !== undefined);
  const rows = visits.map(
    ({ times, address, visitor, outcome, status, final, hops, fullAccess }) => {
      const { sign, word } = OUTCOME_WORDS[outcome];
      const end = `${sign} ${word} ${status}${fullAccess ? ', by full access' : ''}`;
      return [
        ...(isLog ? [String(times)] : []),
        ...[address, visitor, paint[outcome](end), hops, final],
      ];
    },
  );
  const head = [...(isLog ? ['times'] : []), 'address', 'visitor', 'outcome', 'hops', 'ends at'];
  const leftOut = left > 0 ? `; ${count(left, 'address', 'addresses')} left out, see --limit` : '';
  return `${plainTable(
    head.map((one) => dim(one)),
    rows,
  )}\n${count(visits.length, 'visit')}${leftOut}`;
}
