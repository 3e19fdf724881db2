import type { PatternProblem } from '../model/pattern-problem.ts';

/** A pattern or a target could not be read: where in its text, and why. */
export class PatternSyntaxError extends Error {
  constructor(
    readonly offset: number,
    readonly problem: PatternProblem,
  ) {
    super(problem.code);
  }
}
