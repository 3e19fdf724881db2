import type { CsvProblem } from './csv-problem.ts';
import type { SiteProblem } from './site-error.ts';

/** Why something can't be taken over, as plain data; `wording/row-problem.ts` has the sentences. */
export type RowProblem =
  | { readonly code: 'csv'; readonly problem: CsvProblem }
  | { readonly code: 'invalid'; readonly problem: SiteProblem }
  | { readonly code: 'no-address' | 'no-name' | 'not-a-page-address' }
  /** A redirect between two spellings of one address. */
  | { readonly code: 'tidied' }
  /** A link of a menu that a site file can't have; the menu is taken without it. */
  | { readonly code: 'menu-link'; readonly menu: string }
  /** The same is on an earlier line. */
  | { readonly code: 'row-twice'; readonly line: number }
  /** Other lines have another target for the same address. */
  | { readonly code: 'conflicting-rows'; readonly lines: readonly number[] }
  /** Nothing stands in a column that must have something. */
  | { readonly code: 'cell-missing'; readonly column: string }
  | { readonly code: 'no-buyer-name'; readonly column: string; readonly cell: string }
  | { readonly code: 'no-moment'; readonly column: string; readonly cell: string }
  | { readonly code: 'not-one-of'; readonly cell: string; readonly values: readonly string[] };
