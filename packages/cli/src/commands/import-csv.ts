import { Argument, type Command } from 'commander';
import {
  CsvProblem,
  proposePagesFromCsv,
  proposeVisitorsFromCsv,
  valueOf,
  type CsvProposal,
} from '@kleidon/core';
import { EXIT, Stop } from '../exit.ts';
import { propose, withProposal, type ProposalOptions } from '../proposal.ts';
import { preparedFrom, readText } from '../source.ts';
import { targetFrom, type Target } from '../target.ts';

/** `kleidon import csv`: pages or visitors from a spreadsheet. */
export function addImportCsv(imports: Command): void {
  withProposal(imports.command('csv'))
    .description('propose the pages or visitors of a CSV file (RFC 4180)')
    .addArgument(new Argument('<what>', 'what the lines are').choices(['pages', 'visitors']))
    .argument('<csv>', 'the file; - reads standard input')
    .addHelpText(
      'after',
      `
The first line names the columns, in any order. What the site file has already is kept as it is.

  pages      address; title, kind, draft, listed, from, until, leads-to, https, refresh, example
  visitors   name; title, id, guest, roles, groups, bought, language
             Several roles, groups or products stand in one cell: ringer; warden
             A purchase may have dates: hide-permit 2026-05-01..2027-05-01

Examples:
  kleidon import csv pages pages.csv --file www.site.yaml
  kleidon import csv visitors people.csv --file www.site.yaml --write`,
    )
    .action(async (what: 'pages' | 'visitors', csv: string, options: ProposalOptions) => {
      const text = readText(csv);
      const target = await targetFrom(options);
      const proposal = proposalOf(what, target, text, csv);
      const notes = proposal.unread.map((column) => `? the column "${column}" is not read`);
      await propose(target, proposal, options, notes);
    });
}

function proposalOf(
  what: 'pages' | 'visitors',
  target: Target,
  text: string,
  csv: string,
): CsvProposal {
  const prepared = preparedFrom(target.text, target.name);
  const site = valueOf(target.text);
  try {
    return what === 'pages'
      ? proposePagesFromCsv(prepared, site, text)
      : proposeVisitorsFromCsv(site, text);
  } catch (error) {
    if (!(error instanceof CsvProblem)) throw error;
    throw new Stop(EXIT.failed, `${csv}:${error.line}: ${error.message}`);
  }
}
