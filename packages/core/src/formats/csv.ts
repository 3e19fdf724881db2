import { CsvError, parse } from 'csv-parse/sync';
import { stringify } from 'csv-stringify/sync';
import type { CsvProblem } from '../model/csv-problem.ts';

/** A CSV file could not be read: on which line, and why. */
export class CsvSyntaxError extends Error {
  constructor(
    readonly line: number,
    readonly problem: CsvProblem,
  ) {
    super(problem.code);
  }
}

/** A CSV file whose columns are known by their names, in whatever order they stand. */
export interface Table<C extends string> {
  readonly rows: readonly Row<C>[];
  /** Columns whose names mean nothing here. */
  readonly unread: readonly string[];
}

export interface Row<C extends string> {
  /** The line on which the row begins, from 1. */
  readonly line: number;
  /** What is not empty, by the name of its column. */
  readonly values: Readonly<Partial<Record<C, string>>>;
  /** Why the row can't be read; its values may be those of other columns. */
  readonly problem: CsvProblem | null;
}

const SEPARATORS = [',', ';', '\t'] as const;

/**
 * Reads a CSV file (RFC 4180; semicolons and tabs are taken too). The first row names the columns.
 *
 * @param columns the columns, each with the names by which it is known; case, spaces and hyphens don't count
 * @throws CsvSyntaxError
 */
export function readTable<C extends string>(
  text: string,
  columns: Readonly<Record<C, readonly string[]>>,
  needed: C,
): Table<C> {
  const records = parseRows(text);
  const [head, ...rows] = records;
  if (!head) throw new CsvSyntaxError(1, { code: 'empty-file' });
  const known = Object.entries<readonly string[]>(columns).flatMap(([column, names]) =>
    [column, ...names].map((name) => [plain(name), column as C] as const),
  );
  const nameOf = new Map(known);
  const order = head.record.map((name) => nameOf.get(plain(name)) ?? null);
  if (!order.includes(needed)) {
    throw new CsvSyntaxError(head.line, {
      code: 'column-missing',
      wanted: [needed, ...columns[needed]],
      columns: head.record,
    });
  }
  const twice = order.find((column, i) => column !== null && order.indexOf(column) !== i);
  if (twice) throw new CsvSyntaxError(head.line, { code: 'column-twice', column: twice });
  return {
    rows: rows
      .filter(({ record }) => record.some((cell) => cell.trim() !== ''))
      .map(({ line, record }) => ({
        line,
        values: valuesOf(order, record),
        problem: surplusOf(order.length, record),
      })),
    unread: head.record.filter((name, i) => order[i] === null && name.trim() !== ''),
  };
}

function valuesOf<C extends string>(
  order: readonly (C | null)[],
  record: readonly string[],
): Partial<Record<C, string>> {
  const values: Partial<Record<C, string>> = {};
  for (let i = 0; i < order.length; i++) {
    const column = order[i] ?? null;
    const cell = record[i];
    if (column !== null && cell) values[column] = withoutMark(cell);
  }
  return values;
}

/** Text beyond the last column belongs to one of them, and is not to be lost. */
function surplusOf(columns: number, record: readonly string[]): CsvProblem | null {
  const isWithin = record.slice(columns).every((cell) => cell.trim() === '');
  if (isWithin) return null;
  return { code: 'surplus-cells', cells: record.length, columns };
}

const plain = (name: string): string => name.toLowerCase().replace(/[\s_-]+/g, '');

function parseRows(text: string): { record: string[]; line: number }[] {
  const [first = ''] = text.split(/\r?\n/, 1);
  const counts = SEPARATORS.map((one) => first.split(one).length);
  const delimiter = SEPARATORS[counts.indexOf(Math.max(...counts))]!;
  if (!text.includes('"')) return withoutQuotes(text, delimiter);
  const lines: number[] = [];
  let next = 1;
  try {
    const records = parse(text, {
      bom: true,
      trim: true,
      delimiter,
      relax_column_count: true,
      on_record: (record: string[], { lines: end }) => {
        lines.push(next);
        next = end + 1;
        return record;
      },
    });
    return records.map((record, i) => ({ record, line: lines[i]! }));
  } catch (error) {
    if (!(error instanceof CsvError)) throw error;
    throw new CsvSyntaxError(Number(error['lines'] ?? next), {
      code: 'not-csv',
      detail: error.message,
    });
  }
}

/**
 * Where nothing is quoted, a record is a line and a field is what stands between two separators (RFC
 * 4180, 2): the parser would say the same of 100,000 lines, and take ten times as long.
 */
function withoutQuotes(text: string, delimiter: string): { record: string[]; line: number }[] {
  return text
    .replace(/^\ufeff|(?:\r\n|\n|\r)$/g, '')
    .split(/\r\n|\n|\r/)
    .map((line, i) => ({ record: line.split(delimiter).map(trimmed), line: i + 1 }))
    .filter(({ record }) => record.length > 1 || record[0] !== '');
}

/**
 * Writes a CSV file (RFC 4180). What a spreadsheet would take for a formula is written as text.
 * @param columns the fields to be written, and their heads
 */
export function writeTable<T extends object>(
  rows: readonly T[],
  columns: readonly (keyof T & string)[],
): string {
  return stringify([...rows], {
    header: true,
    columns: [...columns],
    record_delimiter: 'windows',
    // Line breaks of any kind, and leading or trailing spaces.
    quoted_match: /[\r\n]|^\s|\s$/,
    cast: { boolean: (value) => (value ? 'yes' : 'no'), string: withMark },
  });
}

/** A formula to a spreadsheet, in any line of a cell, and the same with the mark that makes it text. */
const FORMULA = /(^|[\r\n])('*[=+\-@\t\uFF1D\uFF0B\uFF0D\uFF20])/g;
const MARKED = /(^|[\r\n])'('*[=+\-@\t\uFF1D\uFF0B\uFF0D\uFF20])/g;
const withMark = (text: string): string => text.replace(FORMULA, "$1'$2");
const withoutMark = (text: string): string => text.replace(MARKED, '$1$2');

/** Spaces around an unquoted value are not part of it. */
const trimmed = (cell: string): string => cell.replace(/^[ \t]+|[ \t]+$/g, '');
