import { columnsOf } from '../site/fields/columns.ts';
import type { SiteValue } from '../model/plain-value.ts';
import { entriesOf } from '../site/edit/refused.ts';
import { readTable, type Row } from '../formats/csv.ts';
import { partitionValid, takeOnce } from './check-entries.ts';
import type { CsvProposal } from './pages-csv.ts';
import type { RejectedRow } from './proposal.ts';

const COLUMNS = columnsOf('visitors', { name: ['login', 'user', 'visitor'] });

/**
 * Proposes the visitors of a CSV file: a name, and what else there is a column for. Several roles,
 * groups or products stand in one cell with semicolons or bars between; a product may be followed
 * by the dates of the purchase, as in `hide-permit 2026-05-01..2027-05-01`.
 *
 * @param site the site file as plain values
 * @throws CsvProblem
 */
export function proposeVisitorsFromCsv(site: SiteValue, text: string): CsvProposal {
  const { rows, unread } = readTable(text, COLUMNS, 'name');
  const there = entriesOf(site, 'visitors');
  const refused: RejectedRow[] = [];
  const taken = new Map<string, Row<string>>();
  let known = 0;
  for (const row of rows) {
    const { name } = row.values;
    if (row.problem !== null)
      refused.push({
        what: name ?? '',
        line: row.line,
        problem: { code: 'csv', problem: row.problem },
      });
    else if (name === undefined)
      refused.push({ what: '', line: row.line, problem: { code: 'no-name' } });
    else if (Object.hasOwn(there, name)) known++;
    else takeOnce(taken, refused, name, row);
  }
  const entries = [...taken].map(([name, row]) => ({
    name,
    value: visitorFrom(row),
    line: row.line,
  }));
  return {
    ...partitionValid(site, 'visitors', entries, refused),
    known,
    elsewhere: 0,
    unread,
    patterns: [],
  };
}

function visitorFrom({ values }: Row<string>): unknown {
  const { name: _, roles, groups, bought, ...rest } = values;
  return {
    ...rest,
    ...(roles === undefined ? {} : { roles: several(roles) }),
    ...(groups === undefined ? {} : { groups: several(groups) }),
    ...(bought === undefined ? {} : { bought: several(bought).map(purchaseFrom) }),
  };
}

const several = (cell: string): string[] =>
  cell
    .split(/[;|]/)
    .map((one) => one.trim())
    .filter((one) => one !== '');

function purchaseFrom(text: string): unknown {
  const [product = '', period = ''] = text.split(/\s+/, 2);
  const [from = '', until = ''] = period.split('..');
  return { product, ...(from === '' ? {} : { from }), ...(until === '' ? {} : { until }) };
}
