import { Argument, type Command } from 'commander';
import { formats, proposals, siteFiles, wording } from '@kleidon/core';
import { EXIT, Stop } from '../exit.ts';
import { propose, withProposal, type ProposalOptions } from '../proposal.ts';
import { readText } from '../read-text.ts';
import { preparedFrom } from '../source/of-file.ts';
import { targetFrom, type Target } from '../target.ts';

const KINDS = ['pages', 'visitors', 'redirects'] as const;
type Kind = (typeof KINDS)[number];

/** `kleidon import csv`: pages, visitors or redirects from a spreadsheet. */
export function addImportCsv(imports: Command): void {
  withProposal(imports.command('csv'))
    .description('propose the pages, visitors or redirects of a CSV file (RFC 4180)')
    .addArgument(new Argument('<what>', 'what the lines are').choices([...KINDS]))
    .argument('<csv>', 'the file; - reads standard input')
    .addHelpText(
      'after',
      `
The first line names the columns, in any order. What the site file has already is kept as it is.

  pages      address; title, kind, draft, listed, from, until, leads-to, https, refresh, example
  visitors   name; title, id, guest, roles, groups, bought, language
             Several roles, groups or products stand in one cell: ringer; warden
             A purchase may have dates: hide-permit 2026-05-01..2027-05-01
  redirects  from, to; kind (or 301, 302, 307, 308), query, when, since, until, unless-page, note, rank
             One with the same "from" and "when" as one that is there changes it.

Examples:
  kleidon import csv pages pages.csv --file www.site.yaml
  kleidon import csv visitors people.csv --file www.site.yaml --write
  kleidon import csv redirects moved.csv --file www.site.yaml --dry-run`,
    )
    .action(async (what: Kind, csv: string, options: ProposalOptions) => {
      const text = readText(csv);
      const target = await targetFrom(options);
      const proposal = proposalOf(what, target, text, csv);
      const notes = proposal.unread.map((column) => `? the column "${column}" is not read`);
      await propose(target, proposal, options, notes);
    });
}

function proposalOf(what: Kind, target: Target, text: string, csv: string): proposals.CsvProposal {
  const prepared = preparedFrom(target);
  const site = siteFiles.valueOf(target.text);
  try {
    if (what === 'redirects') return proposals.proposeRedirectsFromCsv(site, text);
    return what === 'pages'
      ? proposals.proposePagesFromCsv(prepared, site, text)
      : proposals.proposeVisitorsFromCsv(site, text);
  } catch (error) {
    if (!(error instanceof formats.CsvSyntaxError)) throw error;
    throw new Stop(
      EXIT.failed,
      `${csv}:${error.line}: ${wording.describeCsvProblem(error.problem).message}`,
    );
  }
}
