import type { CsvProblem } from '../model/csv-problem.ts';

/** Why a CSV file or a row can't be read, in English; `remedy` is null where the message says it all. */
export function describeCsvProblem(problem: CsvProblem): {
  message: string;
  remedy: string | null;
} {
  switch (problem.code) {
    case 'empty-file':
      return { message: 'The file is empty; its first line names the columns.', remedy: null };
    case 'column-missing':
      return {
        message: `No column is called ${problem.wanted.join(', ')}. The columns are: ${problem.columns.join(', ')}.`,
        remedy: null,
      };
    case 'column-twice':
      return { message: `Two columns are both the ${problem.column}.`, remedy: null };
    case 'not-csv':
      return { message: `This is not CSV: ${problem.detail}`, remedy: null };
    case 'surplus-cells':
      return {
        message: `It has ${problem.cells} cells, and the first line names ${problem.columns} columns.`,
        remedy: 'Put text with a separator in it in quotes.',
      };
  }
}
