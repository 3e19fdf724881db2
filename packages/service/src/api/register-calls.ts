import type { Request, RequestHandler, Response, Router } from 'express';
import type { Answer, Body, CallName, Operations, Query } from '@kleidon/api';
import type * as yup from 'yup';
import { CALLS, type DescribedCall } from './description.ts';
import { readBody, versionFrom } from './input.ts';
import { onlyMethods } from './problem.ts';
import { bodySchema, parametersSchema, refuseUnknownQuery, validated } from './validation.ts';

/** A request as its call is described; what was sent is validated by the description. */
export interface Call<Name extends CallName> {
  readonly path: Operations[Name]['parameters'] extends { readonly path: infer Path }
    ? Path
    : object;
  readonly query: Query<Name>;
  readonly body: Body<Name>;
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
export const SENT = Symbol('sent');

/** What a handler returns is sent as JSON, with the status that the description has for success. */
export type Handler<Name extends CallName> = (
  call: Call<Name>,
) => Returned<Name> | Promise<Returned<Name>>;

type Returned<Name extends CallName> =
  ([Answer<Name>] extends [never] ? undefined : Answer<Name>) | typeof SENT;

export type Handlers = { readonly [Name in CallName]?: Handler<Name> };

/**
 * Registers calls by their names in the description, which says where each is, what it takes and which
 * status it answers with. Other methods of their addresses get a clear answer.
 */
export function registerCalls(router: Router, handlers: Handlers): void {
  const methods = new Map<string, string[]>();
  for (const [name, handler] of Object.entries(handlers)) {
    const call = CALLS.get(name as CallName);
    if (!call) throw new Error(`The API describes no call "${name}".`);
    const path = call.path.replace(/\{(\w+)\}/g, ':$1');
    router[call.method](path, handlerOf(call, handler as unknown as AnyHandler));
    methods.set(path, [...(methods.get(path) ?? []), call.method.toUpperCase()]);
  }
  for (const [path, allowed] of methods) router.all(path, onlyMethods(...allowed));
}

type AnyHandler = (call: {
  readonly path: unknown;
  readonly query: unknown;
  readonly body: unknown;
  readonly version: number | undefined;
  readonly request: Request;
  readonly response: Response;
}) => unknown;

function handlerOf(call: DescribedCall, handle: AnyHandler): RequestHandler {
  const pathSchema = parametersSchema(call.parameters, 'path');
  const querySchema = parametersSchema(call.parameters, 'query');
  const wantsVersion = call.parameters.some(({ name }) => name === 'If-Match');
  let ofBody: yup.Schema | null = null;
  return async (request, response) => {
    refuseUnknownQuery(call, request.query);
    const path = validated(pathSchema, request.params);
    const query = validated(querySchema, request.query);
    const version = wantsVersion ? versionFrom(request) : undefined;
    let body: unknown;
    if (call.body) {
      body = readBody(request, call.body.type);
      if (call.body.type.endsWith('json') && !Buffer.isBuffer(body))
        body = validated((ofBody ??= bodySchema(call.body.schema)), body);
    }
    const answer = await handle({ path, query, body, version, request, response });
    if (answer === SENT) return;
    response.status(call.status);
    if (answer === undefined) response.end();
    else response.json(answer);
  };
}
