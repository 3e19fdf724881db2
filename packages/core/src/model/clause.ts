import type { Condition } from './condition.ts';

/** One of some statements is true, or none of them is; each stands by itself. */
export interface Term {
  readonly holds: boolean;
  readonly anyOf: readonly Condition[];
}

/** Terms that must all be so. */
export type Clause = readonly Term[];

/** A condition in its shortest form, with its alternatives where there are not too many of them to read. */
export interface ReadableCondition {
  readonly condition: Condition;
  /** Whom it fits: any of these; none means nobody, an empty one means everyone. */
  readonly clauses: readonly Clause[] | null;
  /** The clauses are exceptions from everyone. */
  readonly isExcept: boolean;
}
