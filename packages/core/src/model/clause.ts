import type { Condition } from './condition.ts';

/** A statement that can't be taken apart, or its opposite. */
export interface Literal {
  readonly atom: Condition;
  readonly holds: boolean;
}

/** Literals that must all be true. */
export type Clause = ReadonlyMap<string, Literal>;
