import { columnsOf } from './columns.ts';
import { REDIRECT_KINDS } from './common-fields.ts';
import type { Row } from '../../formats/csv.ts';
import { redirectFromList } from '../../pattern/literally.ts';

/** The columns of a CSV file of redirects, each with the other names by which it is known. */
export const COLUMNS = columnsOf('redirects');

/** The columns in which redirects are written. */
export const REDIRECT_COLUMNS: readonly string[] = Object.keys(COLUMNS);

/**
 * A row as the entry of a site file would be; what is in the wrong form stays as it is. Addresses are taken
 * literally unless they are clearly patterns.
 */
export function redirectFrom({ values }: Row<string>): Readonly<Record<string, unknown>> {
  const entry: Record<string, unknown> = {};
  for (const column of REDIRECT_COLUMNS) {
    const value = values[column];
    if (value === undefined) continue;
    if (column === 'kind') entry[column] = kindFrom(value);
    else if (column === 'rank')
      entry[column] = Number.isInteger(Number(value)) ? Number(value) : value;
    else entry[column] = value;
  }
  return redirectFromList(entry);
}

const kindFrom = (text: string): string =>
  (REDIRECT_KINDS as Readonly<Record<string, string>>)[text] ?? text.toLowerCase();
