/** Why a pattern could not be read: where in its text, what is wrong, what would be right. */
export class PatternProblem extends Error {
  constructor(
    readonly offset: number,
    message: string,
    readonly remedy: string,
  ) {
    super(message);
  }
}
