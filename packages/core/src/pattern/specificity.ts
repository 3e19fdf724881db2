import type { Shape } from './shape.ts';

/** What decides which of two rules that match the same request is the more specific. */
export interface Specificity {
  readonly rank: number;
  readonly shape: Shape;
  /** The rule is for everything beneath its address too. */
  readonly under: boolean;
  /** How many fields of the query it asks for, and of how many of them a value. */
  readonly fields: number;
  readonly values: number;
  /** It is not for everyone. */
  readonly conditional: boolean;
}

/**
 * Orders two rules, the more specific first: `rank`; then the address, segment by segment from the left, by
 * how much of each is plain; then the longer address; then an exact address before a section; then the one that asks for more fields of the query;
 * then for more values in them; then one that is for some before one that is for anyone. Zero is a tie.
 */
export function compareSpecificity(a: Specificity, b: Specificity): number {
  return (
    b.rank - a.rank ||
    compareWeights(a.shape.weights, b.shape.weights) ||
    Number(a.under) - Number(b.under) ||
    b.fields - a.fields ||
    b.values - a.values ||
    Number(b.conditional) - Number(a.conditional)
  );
}

function compareWeights(a: readonly number[], b: readonly number[]): number {
  for (let i = 0; i < a.length && i < b.length; i++) if (a[i] !== b[i]) return a[i]! - b[i]!;
  return b.length - a.length;
}
