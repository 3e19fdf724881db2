import type { ConditionProblem } from '../model/condition-problem.ts';

/** A condition could not be read: where in its text, and why. */
export class ConditionSyntaxError extends Error {
  constructor(
    readonly offset: number,
    readonly problem: ConditionProblem,
  ) {
    super(problem.code);
  }
}
