import type { Message } from '@kleidon/api';
import { queries, siteFiles } from '@kleidon/core';

/** The problems that the API reports: status, title, and what to do about it. */
const PROBLEMS = {
  'wrong-request': [
    400,
    'The request is not right',
    'See "errors", and the description at /api/openapi.json.',
  ],
  'no-such-place': [404, 'There is nothing here', 'See /api/openapi.json for what there is.'],
  'no-such-site': [404, 'There is no such site', 'See /api/sites for those there are.'],
  'no-gateway': [
    404,
    'No gateway runs for this site',
    'Name one in the settings, and start the service with --settings.',
  ],
  'no-probe': [
    404,
    'No probe is set up for this site',
    'Name one under "probes" in the settings, and start the service with --settings.',
  ],
  'no-such-shop': [404, 'There is no such shop', 'Name one under "shops" in the settings.'],
  'not-signed': [
    401,
    'The signature is not right',
    'Sign it with the secret of the settings: by Standard Webhooks, or as "signature" of the shop says there.',
  ],
  'event-not-understood': [
    400,
    'The event is not understood',
    'It is kept, and listed with the events of the site: send it again in the right form, or change the settings of the shop and apply it again.',
  ],
  'no-such-event': [404, 'There is no such event', 'See the events that were rejected.'],
  'no-such-purchase': [404, 'There is no such purchase', 'See the purchases of the site.'],
  'no-such-product': [404, 'There is no such product', 'See the products of the site file.'],
  'no-such-release': [404, 'There is no such release', 'See the releases of the site.'],
  'no-such-version': [
    404,
    'There is no such version of the draft',
    'See the versions of the draft; of each site, the last 200 are kept.',
  ],
  'nothing-scheduled': [
    404,
    'No release is scheduled',
    'It took effect, or somebody cancelled it; see the releases.',
  ],
  'release-scheduled': [
    409,
    'A release is scheduled already',
    'Cancel it first, or wait until it took effect.',
  ],
  'no-such-list': [404, 'There is no such list', 'See the lists of the site.'],
  'no-such-page': [404, 'There is no such page', 'See the pages of the site file.'],
  'no-such-change': [404, 'There is no such change', 'See the pending changes.'],
  'no-such-visitor': [
    404,
    'There is no such visitor',
    'Name one of the site file, or send a "visitor" of your own.',
  ],
  'wrong-method': [405, 'This method is not for this address', 'See the header Allow.'],
  'site-exists': [
    409,
    'There is a site of this name',
    'Choose another name with ?id=NAME, or replace its draft.',
  ],
  'changes-refused': [
    409,
    'Some changes can not be made any more',
    'Drop those that "errors" tells, and save again. Nothing was saved, and all are still pending.',
  ],
  'fix-refused': [
    409,
    'The remedy is not applied',
    'Change the site file by hand. Nothing was changed.',
  ],
  'draft-changed': [
    412,
    'The draft was changed since you read it',
    'Read it again, and put your changes into it. Nothing of yours was saved.',
  ],
  'too-large': [
    413,
    'The body is too large',
    'Send a smaller one, or start the service with a higher --max-body.',
  ],
  'wrong-media-type': [
    415,
    'The body is in the wrong format',
    'Send a site file as application/yaml, a list as text/csv, anything else as application/json.',
  ],
  'wrong-host': [
    421,
    'This service does not answer for that host',
    'Start it with --allow-host NAME to reach it by that name.',
  ],
  'other-origin': [
    403,
    'The request came from a page of another origin',
    'Use the console at the address of this service, or a client that is no browser.',
  ],
  'patch-failed': [
    422,
    'The patch can not be applied',
    'Read the draft again; nothing was changed.',
  ],
  'check-too-slow': [
    422,
    'The site file can not be checked in time',
    'Nothing was saved. Make it smaller or simpler, or raise "check-timeout" in the settings.',
  ],
  'too-slow': [
    422,
    'The answer takes too long',
    'Ask about a part of the site, make the site file simpler, or raise "check-timeout" in the settings.',
  ],
  'too-busy': [503, 'Too many questions are waiting', 'Try again in a few seconds.'],
  'site-has-errors': [422, 'The site file has errors', 'Fix them; "errors" says where and how.'],
  'guarantee-broken': [
    422,
    'The draft breaks a guarantee',
    'See "guarantees", and mend it; or release it nevertheless with the reason as "override".',
  ],
  'version-needed': [428, 'Say which version of the draft you have', 'Send its ETag in If-Match.'],
  'disk-full': [
    507,
    'The disk of the service is full',
    'Make room where its data folder is, and try again. Nothing was saved.',
  ],
  'storage-full': [
    507,
    'The storage of the service is used up',
    'Delete sites that nobody needs, drop pending changes, or raise "storage" in the settings. Nothing was saved.',
  ],
  'database-locked': [
    503,
    'Another program holds the database of the service',
    'Try again when it has let go of it. Nothing was saved.',
  ],
  'own-fault': [
    500,
    'The service failed',
    'This is a fault of Kleidon. The log has more under this request id.',
  ],
} as const satisfies Record<string, readonly [number, string, string]>;

export type ProblemCode = keyof typeof PROBLEMS;

/** Thrown by a handler to answer with a problem document (RFC 9457). */
export class Problem extends Error {
  constructor(
    readonly code: ProblemCode,
    detail: string,
    readonly more: Readonly<Record<string, unknown>> = {},
  ) {
    super(detail);
  }
}

/** The problem document of a problem. */
export function problemDocument({ code, message, more }: Problem): Message<'Problem'> {
  const [status, title, remedy] = PROBLEMS[code];
  return { type: `/api/problems/${code}`, title, status, detail: message, remedy, ...more };
}

/** What a problem's `type` leads to: what it means, and what to do. */
export function describeProblem(code: string): Message<'Problem'> {
  if (!Object.hasOwn(PROBLEMS, code))
    throw new Problem('no-such-place', 'No problem has this name.');
  const [status, title, remedy] = PROBLEMS[code as ProblemCode];
  return { type: `/api/problems/${code}`, title, status, remedy };
}

/** The problem of a question that can't be answered. */
function questionProblem({ problem, message, sentences }: queries.QuestionError): Problem {
  if (problem.code === 'no-such-visitor') return new Problem('no-such-visitor', message);
  if (problem.code !== 'unreadable-visitor') return new Problem('wrong-request', message);
  const errors = sentences.map((one) => ({ pointer: '/visitor', message: one }));
  return new Problem('wrong-request', message, { errors });
}

/** An operation that could not be carried out, by its position. */
const patchFailed = ({
  operation,
  message,
}: Pick<siteFiles.PatchProblem, 'operation' | 'message'>): Problem =>
  new Problem('patch-failed', `Operation ${operation + 1}: ${message}`, {
    errors: [{ pointer: `/${operation}`, message }],
  });

/** The problem behind an error of core, of the body parser or of the database. */
export function problemFrom(error: unknown): Problem {
  if (error instanceof Problem) return error;
  if (error instanceof queries.QuestionError) return questionProblem(error);
  if (error instanceof siteFiles.PatchProblem) return patchFailed(error);
  const { code, type, limit, expose, message, status } = error as {
    code?: string;
    type?: string;
    limit?: number;
    expose?: boolean;
    message?: string;
    status?: number;
  };
  if (code === 'SQLITE_FULL' || code === 'ENOSPC')
    return new Problem('disk-full', 'There is no room on the disk of the service.');
  if (code?.startsWith('SQLITE_BUSY'))
    return new Problem('database-locked', 'The database can not be written now.');
  if (type === 'entity.too.large')
    return new Problem('too-large', `The body is over ${limit} bytes.`);
  if (type === 'charset.unsupported' || type === 'encoding.unsupported') {
    return new Problem('wrong-media-type', `${message}. Send UTF-8.`);
  }
  if (status === 404) return new Problem('no-such-place', 'There is no such file.');
  if (expose || (status !== undefined && status < 500)) {
    return new Problem('wrong-request', message ?? 'The request could not be read.');
  }
  return new Problem('own-fault', 'Something went wrong on our side.');
}
