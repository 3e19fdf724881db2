import type { Condition } from './condition.ts';

/** A statement that can't be taken apart, or its opposite. */
export interface Literal {
  readonly atom: Condition;
  readonly holds: boolean;
}

/** Literals that must all be true. */
export type Clause = ReadonlyMap<string, Literal>;

/** A condition, with its alternatives where there are not too many of them to read. */
export interface ReadableCondition {
  readonly condition: Condition;
  readonly clauses: readonly Clause[] | null;
}
