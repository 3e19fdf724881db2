import type { ErrorRequestHandler, RequestHandler, Response } from 'express';
import type { Logger } from 'pino';
import { Problem, problemDocument, problemFrom, type ProblemCode } from '../calls/problem.ts';

export function sendProblem(response: Response, problem: Problem): void {
  const document = problemDocument(problem);
  response.status(document.status).type('application/problem+json').send(JSON.stringify(document));
}

export const nothingHere: RequestHandler = (request) => {
  throw new Problem('no-such-place', `There is nothing at ${request.path}.`);
};

/** Says which methods an address has, where it was asked for another. */
export const onlyMethods =
  (...methods: string[]): RequestHandler =>
  (request, response) => {
    response.set('Allow', methods.join(', '));
    throw new Problem(
      'wrong-method',
      `${request.method} is not for ${request.path}; ${methods.join(', ')} is.`,
    );
  };

/** Problems that whoever runs the service has to know of. */
const LOGGED: ReadonlySet<string> = new Set(['own-fault', 'disk-full', 'database-locked']);

/** In seconds. */
const RETRY_AFTER: Readonly<Partial<Record<ProblemCode, string>>> = {
  'database-locked': '1',
  'too-busy': '5',
};

/** Turns whatever a handler threw into a problem document. */
export const answerProblems =
  (log: Logger): ErrorRequestHandler =>
  (error: unknown, request, response, _next) => {
    const problem = problemFrom(error);
    if (LOGGED.has(problem.code))
      log.error({ err: error, requestId: response.locals['requestId'] as string }, problem.code);
    if (response.headersSent) {
      // An answer that is not complete can only be cut off.
      if (!response.writableEnded) request.socket.destroy();
      return;
    }
    const retryAfter = RETRY_AFTER[problem.code];
    if (retryAfter !== undefined) response.set('Retry-After', retryAfter);
    sendProblem(response, problem);
  };
