import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import type { CallName } from '@kleidon/api';

/** As much of JSON Schema (2020-12) as the requests of the API are described with. */
export interface JsonSchema {
  readonly $ref?: string;
  readonly type?: string | readonly string[];
  readonly enum?: readonly string[];
  readonly const?: string;
  readonly pattern?: string;
  readonly minimum?: number;
  readonly maximum?: number;
  readonly maxLength?: number;
  readonly maxItems?: number;
  readonly default?: unknown;
  readonly items?: JsonSchema;
  readonly properties?: Readonly<Record<string, JsonSchema>>;
  readonly required?: readonly string[];
  readonly additionalProperties?: unknown;
  readonly oneOf?: readonly JsonSchema[];
  /** The sentence for a value that does not fit `pattern`. */
  readonly 'x-message'?: string;
}

interface Referring {
  readonly $ref?: string;
}
interface Parameter {
  readonly name: string;
  readonly in: 'path' | 'query' | 'header';
  readonly required?: boolean;
  readonly schema: JsonSchema;
}
interface RequestBody {
  readonly content: Readonly<Record<string, { readonly schema: JsonSchema }>>;
}
interface Operation {
  readonly operationId: CallName;
  readonly parameters?: readonly (Parameter & Referring)[];
  readonly requestBody?: RequestBody & Referring;
  readonly responses: Readonly<Record<string, unknown>>;
}
interface Description {
  readonly paths: Readonly<Record<string, Readonly<Record<string, Operation>>>>;
}

export type Method = 'get' | 'post' | 'put' | 'patch' | 'delete';

/** A call as the description has it, its references followed. */
export interface DescribedCall {
  readonly path: string;
  readonly method: Method;
  readonly parameters: readonly Parameter[];
  /** The media type of the body and its schema; null for a call without a body. */
  readonly body: { readonly type: string; readonly schema: JsonSchema } | null;
  /** The status of an answer where the call succeeds. */
  readonly status: number;
}

const FILE = fileURLToPath(import.meta.resolve('@kleidon/api/openapi.json'));

/** The OpenAPI 3.1 description of the HTTP API: what calls there are, and what each takes and answers. */
export const DESCRIPTION = JSON.parse(readFileSync(FILE, 'utf8')) as Description;

/** What a reference points to; anything else is returned as it is. */
export function resolved<T extends Referring>(value: T): T {
  if (value.$ref === undefined) return value;
  const found = value.$ref
    .split('/')
    .slice(1)
    .reduce<unknown>((at, step) => (at as Record<string, unknown>)[step], DESCRIPTION);
  return found as T;
}

/** The calls of the API, by name. */
export const CALLS: ReadonlyMap<CallName, DescribedCall> = new Map(
  Object.entries(DESCRIPTION.paths).flatMap(([path, operations]) =>
    Object.entries(operations).map(([method, operation]) => {
      const body = operation.requestBody && resolved(operation.requestBody);
      const [content] = Object.entries(body?.content ?? {});
      const call: DescribedCall = {
        path,
        method: method as Method,
        parameters: (operation.parameters ?? []).map(resolved),
        body: content ? { type: content[0], schema: content[1].schema } : null,
        status: Number(Object.keys(operation.responses).find((status) => status.startsWith('2'))),
      };
      return [operation.operationId, call] as const;
    }),
  ),
);
