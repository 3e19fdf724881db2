import { readFileSync } from 'node:fs';
import { Ajv2020, type ValidateFunction } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { parse } from 'yaml';

interface Operation {
  readonly operationId: string;
  readonly tags?: readonly string[];
  readonly parameters?: readonly Parameter[];
  readonly requestBody?: Answer;
  readonly responses: Record<string, Answer>;
}
interface Answer {
  readonly $ref?: string;
  readonly content?: Record<string, { readonly schema: object; readonly example?: unknown }>;
}
export interface Parameter {
  readonly $ref?: string;
  readonly name?: string;
  readonly required?: boolean;
  readonly example?: unknown;
}
interface Description {
  readonly paths: Record<string, Record<string, Operation>>;
  readonly components: {
    readonly responses: Record<string, Answer>;
    readonly parameters: Record<string, Parameter>;
  };
}

const text = readFileSync(new URL('../../api/openapi.yaml', import.meta.url), 'utf8');
export const description = parse(text) as Description;

const ajv = new Ajv2020({ strict: false, allErrors: true });
(addFormats as unknown as (to: Ajv2020) => void)(ajv);
ajv.addSchema(description, 'openapi');

/** The operations that were called and answered as described, for the test that none was left out. */
export const called = new Set<string>();

/** The operations of the description with this tag; undefined for those that have none. */
export const operations = (tag?: string): string[] =>
  Object.values(description.paths)
    .flatMap((methods) => Object.values(methods))
    .filter(({ tags }) => tags?.[0] === tag)
    .map(({ operationId }) => operationId)
    .sort();

/** Calls the service, and fails where the answer is not what the description says. */
export async function call(
  address: string,
  path: string,
  init: RequestInit = {},
): Promise<Response> {
  const response = await fetch(address + path, { redirect: 'manual', ...init });
  const template = templateOf(new URL(address + path).pathname);
  const method = (init.method ?? 'GET').toLowerCase();
  const operation = template === null ? undefined : description.paths[template]?.[method];
  if (!operation) return response;
  called.add(operation.operationId);
  const key = String(response.status) in operation.responses ? String(response.status) : 'default';
  const described = operation.responses[key];
  if (!described)
    throw new Error(`${operation.operationId} does not describe status ${response.status}`);
  const pointer = described.$ref ?? `#/paths/${escape(template!)}/${method}/responses/${key}`;
  const content =
    (described.$ref ? description.components.responses['Problem'] : described)?.content ?? {};
  if (response.status === 204 && Object.keys(content).length === 0) return response;
  const type = response.headers.get('Content-Type')?.split(';')[0] ?? '';
  if (!content[type])
    throw new Error(
      `${operation.operationId} does not describe the type ${type} for ${response.status}`,
    );
  if (type.endsWith('json'))
    validate(`openapi${pointer}/content/${escape(type)}/schema`, await response.clone().json());
  return response;
}

/** Fails where a value is not as a schema of the description says. */
export function validate(reference: string, value: unknown): void {
  const check: ValidateFunction = ajv.getSchema(reference) ?? ajv.compile({ $ref: reference });
  if (!check(value))
    throw new Error(
      `Not as described: ${ajv.errorsText(check.errors)}\n${JSON.stringify(value).slice(0, 500)}`,
    );
}

const escape = (key: string): string =>
  encodeURIComponent(key.replace(/~/g, '~0').replace(/\//g, '~1'));

function templateOf(path: string): string | null {
  const templates = Object.keys(description.paths).sort(
    (a, b) => Number(a.includes('{')) - Number(b.includes('{')),
  );
  return (
    templates.find((one) => new RegExp(`^${one.replace(/\{[^}]+\}/g, '[^/]+')}$`).test(path)) ??
    null
  );
}
