import type { Request, RequestHandler, Response, Router } from 'express';
import type { CallName, Operations } from '@kleidon/api';
import type { Analyses, CallJob, EncodedAnswer } from '../analysis/analyses.ts';
import { bodyReader, type Answered, type Asked } from '../calls/call.ts';
import { CALLS, type DescribedCall } from '../calls/description.ts';
import { bodyOf, versionFrom } from './input.ts';
import { parametersSchema, refuseUnknownQuery, validated } from '../calls/validation.ts';
import { onlyMethods } from './problem.ts';

/** A request as its call is described; what was sent is validated by the description. */
export interface Call<Name extends CallName> extends Asked<Name> {
  /** The version of the draft that If-Match names; for calls that take the header. */
  readonly version: Operations[Name]['parameters'] extends {
    readonly header: { readonly 'If-Match': string };
  }
    ? number
    : undefined;
  readonly request: Request;
  /** For headers, and for answers that are not JSON. */
  readonly response: Response;
}

/** A handler returns this where it has sent the answer itself. */
export const SENT: { readonly isSent: true } = { isSent: true };

/** What a handler returns is sent as JSON, with the status that the description has for success. */
export type Handler<Name extends CallName> = (
  call: Call<Name>,
) => Returned<Name> | Promise<Returned<Name>>;

type Returned<Name extends CallName> = Answered<Name> | typeof SENT;

export type Handlers = { readonly [Name in CallName]?: Handler<Name> };

/**
 * Registers calls by their names in the description, which says where each is, what it takes and which
 * status it answers with.
 */
export function registerCalls(router: Router, handlers: Handlers): void {
  for (const [name, handler] of Object.entries(handlers)) {
    const call = described(name as CallName);
    router[call.method](pathOf(call), handlerOf(call, handler as unknown as AnyHandler));
  }
}

/** Registers calls that are computed as a whole, in another thread. */
export function registerAnalyses(
  router: Router,
  analyses: Analyses,
  names: readonly CallName[],
): void {
  for (const name of names) {
    const call = described(name);
    router[call.method](pathOf(call), analysisOf(name, call, analyses));
  }
}

/** Answers with what another thread computes. */
export async function sendAnalysis(
  analyses: Analyses,
  { request, response }: Pick<AnyCall, 'request' | 'response'>,
  job: Pick<CallJob, 'call' | 'path' | 'query' | 'body'>,
  status: number,
): Promise<typeof SENT> {
  const { site = '' } = job.path as { readonly site?: string };
  const answer = await analyses.call(
    site,
    {
      ...job,
      accept: request.get('Accept'),
      takesGzip: request.acceptsEncodings('gzip') === 'gzip',
    },
    whoeverLeaves(response),
  );
  sendEncoded(response, answer, status);
  return SENT;
}

/** Aborts when the client leaves before the answer. */
function whoeverLeaves(response: Response): AbortSignal {
  const leaving = new AbortController();
  response.once('close', () => leaving.abort());
  return leaving.signal;
}

function sendEncoded(
  response: Response,
  { type, encoding, bytes }: EncodedAnswer,
  status: number,
): void {
  response.status(status).vary('Accept').vary('Accept-Encoding').set('Content-Type', type);
  if (encoding) response.set('Content-Encoding', encoding);
  response.send(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength));
}

/** The JSON of an object, with fields that are JSON already. */
export const withJson = (object: object, fields: Readonly<Record<string, Uint8Array>>): Buffer =>
  Buffer.concat([
    Buffer.from(JSON.stringify(object).slice(0, -1)),
    ...Object.entries(fields).flatMap(([name, json]) => [Buffer.from(`,"${name}":`), json]),
    Buffer.from('}'),
  ]);

function described(name: CallName): DescribedCall {
  const call = CALLS.get(name);
  if (!call) throw new Error(`The API describes no call "${name}".`);
  return call;
}

const pathOf = ({ path }: DescribedCall): string => path.replace(/\{(\w+)\}/g, ':$1');

/** Answers other methods of the addresses of all calls, once the calls are registered. */
export function refuseOtherMethods(router: Router): void {
  const methods = new Map<string, DescribedCall[]>();
  for (const call of CALLS.values())
    methods.set(pathOf(call), [...(methods.get(pathOf(call)) ?? []), call]);
  for (const [path, calls] of methods)
    router.all(path, onlyMethods(...calls.map(({ method }) => method.toUpperCase())));
}

interface AnyCall {
  readonly path: unknown;
  readonly query: unknown;
  readonly body: unknown;
  readonly version: number | undefined;
  readonly request: Request;
  readonly response: Response;
}

type AnyHandler = (call: AnyCall) => unknown;

/** Reads the path and the query of a request. */
function parametersReader(call: DescribedCall) {
  const pathSchema = parametersSchema(call.parameters, 'path');
  const querySchema = parametersSchema(call.parameters, 'query');
  return ({ params, query }: Request): { readonly path: unknown; readonly query: unknown } => {
    refuseUnknownQuery(call, query);
    return { path: validated(pathSchema, params), query: validated(querySchema, query) };
  };
}

/** What shops sign is read once the signature was verified. */
const isSigned = ({ path }: DescribedCall): boolean => path.startsWith('/api/shops/');

function handlerOf(call: DescribedCall, handle: AnyHandler): RequestHandler {
  const parametersOf = parametersReader(call);
  const wantsVersion = call.parameters.some(({ name }) => name === 'If-Match');
  const readBody = isSigned(call) ? () => undefined : bodyReader(call);
  return async (request, response) => {
    const parameters = parametersOf(request);
    const version = wantsVersion ? versionFrom(request) : undefined;
    const body = call.body ? readBody(bodyOf(request, call.body.type)) : undefined;
    const answer = await handle({ ...parameters, body, version, request, response });
    if (answer === SENT) return;
    response.status(call.status);
    if (answer === undefined) response.end();
    else response.json(answer);
  };
}

function analysisOf(name: CallName, call: DescribedCall, analyses: Analyses): RequestHandler {
  const parametersOf = parametersReader(call);
  return async (request, response) => {
    const parameters = parametersOf(request);
    const body = call.body ? bodyOf(request, call.body.type) : undefined;
    const job = { call: name, ...parameters, body };
    await sendAnalysis(analyses, { request, response }, job, call.status);
  };
}
