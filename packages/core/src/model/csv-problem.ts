/** Why a CSV file, or a row of one, can't be read, as plain data; `wording/csv-problem.ts` has the sentences. */
export type CsvProblem =
  | { readonly code: 'empty-file' }
  | {
      readonly code: 'column-missing';
      readonly wanted: readonly string[];
      readonly columns: readonly string[];
    }
  | { readonly code: 'column-twice'; readonly column: string }
  | { readonly code: 'not-csv'; readonly detail: string }
  | { readonly code: 'surplus-cells'; readonly cells: number; readonly columns: number };
