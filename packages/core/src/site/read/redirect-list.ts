import type * as yup from 'yup';
import { CsvSyntaxError, readTable, type Row, type Table } from '../../formats/csv.ts';
import { ErrorList, type YamlPath, type Places } from '../yaml/document.ts';
import { COLUMNS, redirectFrom } from '../fields/redirect-columns.ts';
import { hasShape } from './has-shape.ts';
import { redirectSchema } from '../fields/rule-schemas.ts';
import type { SiteError, SiteProblem } from '../../model/site-error.ts';
import type { SourceLocation } from '../../model/source-location.ts';

/** The text of a list beside the site file, by its name; null where there is none. */
export type ListOf = (name: string) => string | null;

type Entry = yup.InferType<typeof redirectSchema>;

/** A list of redirects beside the site file, as far as it could be read. */
export interface RedirectList {
  readonly entries: readonly (readonly [position: number, entry: Entry])[];
  readonly places: Places;
  readonly errors: ErrorList;
}

/**
 * Reads a list of redirects in CSV (RFC 4180), with the columns of docs/site-file.md in any order.
 *
 * @param text the file
 * @param file its name, for the errors
 */
export function readRedirectList(text: string, file: string): RedirectList {
  const unreadable: SiteError[] = [];
  const table = tableOf(text, file, unreadable);
  const places = placesIn(table, text, file);
  const errors = new ErrorList(file, unreadable, places);
  const entries = table.rows.flatMap((row, position): [number, Entry][] => {
    if (row.problem !== null) return [];
    const entry = redirectFrom(row);
    const isRight =
      isPlain(row) || hasShape(redirectSchema, entry, ['redirects', position], errors);
    return isRight ? [[position, entry as Entry]] : [];
  });
  return { entries, places, errors };
}

/** Nearly all rows have nothing but these, and need no schema to be seen to be right. */
const TEXTS: readonly string[] = ['from', 'to', 'note'];

function isPlain({ values }: Row<string>): boolean {
  if (values['from'] === undefined || values['to'] === undefined) return false;
  for (const column in values)
    if (!TEXTS.includes(column) && !isKnown(values, column)) return false;
  return true;
}

const isKnown = (values: Row<string>['values'], column: string): boolean =>
  (column === 'kind' && /^(?:permanent|temporary|30[12378])$/.test(values['kind']!)) ||
  (column === 'query' && /^(?:keep|drop)$/.test(values['query']!));

function tableOf(text: string, file: string, errors: SiteError[]): Table<string> {
  const complain = (line: number, problem: SiteProblem): void => {
    errors.push({ code: 'csv', file, line, column: 1, problem });
  };
  try {
    const table = readTable(text, COLUMNS, 'from');
    for (const name of table.unread)
      complain(1, { code: 'unknown-column', name, columns: Object.keys(COLUMNS) });
    for (const { line, problem } of table.rows)
      if (problem !== null) complain(line, { code: 'csv', problem });
    return table;
  } catch (error) {
    if (!(error instanceof CsvSyntaxError)) throw error;
    complain(error.line, { code: 'csv', problem: error.problem });
    return { rows: [], unread: [] };
  }
}

/** Where the rows and their cells stand. */
function placesIn({ rows }: Table<string>, text: string, file: string): Places {
  let lines: string[] | null = null;
  const place = ([, position, column]: YamlPath, offset = 0): SourceLocation => {
    const row = rows[Number(position)];
    if (!row) return { file, line: 1, column: 1 };
    const { line, values } = row;
    const value = column === undefined ? undefined : values[column as string];
    if (value === undefined) return { file, line, column: 1 };
    lines ??= text.split(/\r?\n/);
    const start = lines[line - 1]!.indexOf(value);
    return { file, line, column: Math.max(start, 0) + offset + 1 };
  };
  return { valueAt: place, keyAt: place, within: place };
}
