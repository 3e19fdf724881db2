import { columnsOf } from '../site/fields/columns.ts';
import type { SiteValue } from '../model/plain-value.ts';
import { readAddress } from '../address/address.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { readTable, type Row } from '../formats/csv.ts';
import { rulesAt } from '../pattern/pattern-index.ts';
import { asAddress, hasPieces } from '../pattern/literally.ts';
import { partitionValid, takeOnce } from './check-entries.ts';
import type { RejectedRow, Proposal } from './proposal.ts';

const COLUMNS = columnsOf('pages', { address: ['path', 'url', 'page', 'link'] });

/** A proposal from a CSV file; columns that mean nothing here are told. */
export interface CsvProposal extends Proposal {
  readonly unread: readonly string[];
  /** Addresses that were taken for patterns; all others are taken literally. */
  readonly patterns: readonly string[];
}

/**
 * Proposes the pages of a CSV file: an address, and what else there is a column for. Addresses may be whole
 * ones of the site's hosts; they are taken literally unless they are clearly patterns. What the site file has
 * already is kept.
 *
 * @param site the site file as plain values
 * @throws CsvProblem
 */
export function proposePagesFromCsv(
  prepared: PreparedSite,
  site: SiteValue,
  text: string,
): CsvProposal {
  const { rows, unread } = readTable(text, COLUMNS, 'address');
  const addresses = new Set(prepared.site.pages.map((page) => page.address));
  const refused: RejectedRow[] = [];
  const taken = new Map<string, Row<string>>();
  let known = 0;
  let elsewhere = 0;
  for (const row of rows) {
    const { address } = row.values;
    const path = address === undefined ? null : pathOf(prepared, address);
    if (row.problem !== null)
      refused.push({
        what: address ?? '',
        line: row.line,
        problem: { code: 'csv', problem: row.problem },
      });
    else if (path === 'elsewhere') elsewhere++;
    else if (path === null)
      refused.push({
        what: address ?? '',
        line: row.line,
        problem: { code: address === undefined ? 'no-address' : 'not-a-page-address' },
      });
    else if (addresses.has(path) || isCovered(prepared, path)) known++;
    else takeOnce(taken, refused, path, row);
  }
  const entries = [...taken].map(([address, row]) => ({
    name: address,
    value: pageFrom(row),
    line: row.line,
  }));
  const sorted = partitionValid(site, 'pages', entries, refused);
  return {
    ...sorted,
    known,
    elsewhere,
    unread,
    patterns: sorted.additions.map(({ name }) => name).filter(hasPieces),
  };
}

/** The path of an address of the site; an address that is a path may be a pattern. */
function pathOf({ site, hosts }: PreparedSite, address: string): string | null {
  if (address.startsWith('/') && !address.startsWith('//')) return asAddress(address);
  const read = readAddress(address, site, site.tidy);
  if (!read.ok || !/^https?:/i.test(address)) return null;
  return hosts.has(read.address.host) ? read.address.path : 'elsewhere';
}

function isCovered({ site, pages }: PreparedSite, path: string): boolean {
  const read = readAddress(path, site, site.tidy);
  return read.ok && rulesAt(pages, read.address.path).length > 0;
}

function pageFrom({ values }: Row<string>): unknown {
  const { address: _, ...fields } = values;
  const names = Object.keys(fields);
  return names.length === 1 && names[0] === 'title' ? fields.title : fields;
}
