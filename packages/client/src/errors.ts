import type { ProblemDocument } from './api.ts';

/** The service answered with a problem document. */
export class ServiceProblem extends Error {
  constructor(readonly problem: ProblemDocument) {
    super(problem.detail ?? problem.title);
    this.name = 'ServiceProblem';
  }

  /** What kind of problem it is: the last step of its type, such as `draft-changed`. */
  get code(): string {
    return this.problem.type.split('/').at(-1)!;
  }
}

/** The service could not be reached, or what answered is not the service. */
export class Unreachable extends Error {
  constructor(address: string, cause: unknown) {
    super(`The service at ${address} can't be reached.`, { cause });
    this.name = 'Unreachable';
  }
}
