import type { RequestHandler } from 'express';
import { wording } from '@kleidon/core';
import { Problem } from './problem.ts';

interface Parameter {
  readonly $ref?: string;
  readonly name?: string;
  readonly in?: string;
}
interface Operation {
  readonly parameters?: readonly Parameter[];
}

/** As much of an OpenAPI description as tells which query parameters a call takes. */
export interface Described {
  readonly paths: Readonly<Record<string, Readonly<Record<string, Operation>>>>;
  readonly components: { readonly parameters: Readonly<Record<string, Parameter>> };
}

/**
 * Refuses query parameters that a call does not take: one that is left unread would be answered as if it
 * had not been asked for.
 * @param description the OpenAPI description of the service
 */
export function onlyKnownQuery({ paths, components }: Described): RequestHandler {
  const calls = Object.entries(paths).map(([path, operations]) => ({
    pattern: new RegExp(`^${path.replace(/\{\w+\}/g, '[^/]+')}/?$`),
    operations,
  }));
  const named = ({ $ref, ...own }: Parameter): Parameter =>
    $ref === undefined ? own : (components.parameters[$ref.split('/').at(-1)!] ?? own);
  return (request, _response, next) => {
    const names = Object.keys(request.query);
    const call = names.length > 0 && calls.find(({ pattern }) => pattern.test(request.path));
    if (!call) {
      next();
      return;
    }
    const method = request.method === 'HEAD' ? 'get' : request.method.toLowerCase();
    const known = (call.operations[method]?.parameters ?? [])
      .map(named)
      .flatMap((one) => (one.in === 'query' && one.name !== undefined ? [one.name] : []));
    const errors = names
      .filter((name) => !known.includes(name))
      .map((name) => ({
        pointer: '',
        parameter: name,
        message: `"${name}" is not a query parameter of this call. ${known.length === 0 ? 'It takes none.' : wording.didYouMean(name, known)}`,
      }));
    if (errors.length > 0)
      throw new Problem('wrong-request', errors.map(({ message }) => message).join(' '), {
        errors,
      });
    next();
  };
}
