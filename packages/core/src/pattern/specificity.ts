import type { Segment, Shape } from './shape.ts';

/** What decides which of two rules that match the same address is the more specific. */
export interface Specificity {
  readonly rank: number;
  /** The rule names a host. */
  readonly host: boolean;
  readonly shape: Shape;
  /** The rule is for everything beneath its address too. */
  readonly under: boolean;
  /** How many conditions there are besides the address: more of them is more specific. */
  readonly conditions: number;
}

const WEIGHT: Record<Segment['is'], number> = { literal: 0, mixed: 1, group: 2 };
const WILDCARD = 3;

/**
 * Orders two rules, the more specific first: `rank`, then a named host, then literal before group
 * before wildcard segment by segment from the left, then the longer, then an exact address before a
 * section, then with a condition before without. Zero is a tie.
 */
export function compareSpecificity(a: Specificity, b: Specificity): number {
  return (
    b.rank - a.rank ||
    Number(b.host) - Number(a.host) ||
    compareShapes(a.shape, b.shape) ||
    Number(a.under) - Number(b.under) ||
    b.conditions - a.conditions
  );
}

function compareShapes(a: Shape, b: Shape): number {
  const x = weights(a);
  const y = weights(b);
  for (let i = 0; i < Math.min(x.length, y.length); i++) {
    if (x[i] !== y[i]) return x[i]! - y[i]!;
  }
  return y.length - x.length;
}

function weights({ segments, tail }: Shape): number[] {
  const weights = segments.map(({ is }) => WEIGHT[is]);
  if (tail) weights.push(WILDCARD);
  return weights;
}
