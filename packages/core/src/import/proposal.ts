import type { RowProblem } from '../model/row-problem.ts';

/** An entry to be added to a site file. */
export interface Addition {
  readonly section: 'pages' | 'visitors' | 'menus' | 'redirects';
  readonly name: string;
  readonly value: unknown;
  /** The line it stands on, in a file of lines. */
  readonly line?: number;
}

/** An entry of a list that is there already, and what would become of it. */
export interface Change {
  readonly name: string;
  readonly was: unknown;
  readonly value: unknown;
  readonly line?: number;
}

/** What is new to a site, and what became of the rest; shown to someone before it is written. */
export interface Proposal {
  readonly additions: readonly Addition[];
  /** What the site file has already; it is kept as it is. */
  readonly known: number;
  /** Addresses of other hosts. */
  readonly elsewhere: number;
  readonly refused: readonly RejectedRow[];
}

/** Something that can't be taken over, and why. */
export interface RejectedRow {
  readonly what: string;
  /** Where it stands, in a file of lines; null elsewhere. */
  readonly line: number | null;
  readonly problem: RowProblem;
}
