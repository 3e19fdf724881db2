import * as yup from 'yup';
import { isRecord } from '../../model/plain-value.ts';
import type { ErrorList, YamlPath } from '../yaml/document.ts';
import { ERROR_CODES, type SiteProblem } from '../../model/site-error.ts';

/** Whether a value has the shape that a schema asks for; what is wrong with it goes to `list`. */
export function hasShape(
  schema: yup.Schema,
  value: unknown,
  path: YamlPath,
  list: ErrorList,
): boolean {
  if (value === null && schema.type === 'object') {
    list.atKey(path, { code: 'empty-entry', name: String(path.at(-1)) });
    return false;
  }
  if (isOfFewFields(schema, value)) return true;
  try {
    schema.validateSync(value, { strict: true, abortEarly: false });
    return true;
  } catch (error) {
    if (!(error instanceof yup.ValidationError)) throw error;
    for (const one of error.inner.length > 0 ? error.inner : [error]) report(one, path, list);
    return false;
  }
}

/**
 * Whether a value is right by the fields that it has and those that it must have. The library tests every
 * field that a schema declares, present or not, which takes most of the time of reading a large site.
 */
function isOfFewFields(schema: yup.Schema, value: unknown): boolean {
  if (!(schema instanceof yup.ObjectSchema) || !isRecord(value)) return false;
  const declared = schema as yup.ObjectSchema<yup.AnyObject>;
  const known = narrowed.get(declared) ?? new Map<string, yup.Schema>();
  narrowed.set(declared, known);
  const present = Object.keys(value).filter((name) => Object.hasOwn(declared.fields, name));
  const key = present.join();
  let few = known.get(key);
  if (!few) {
    const needed = Object.entries(declared.fields)
      .filter(([, field]) => !(field as yup.Schema).isValidSync(undefined))
      .map(([name]) => name);
    few = declared.pick([...new Set([...present, ...needed])]);
    if (known.size < MOST_NARROWED) known.set(key, few);
  }
  return few.isValidSync(value, { strict: true });
}

/** Schemas narrowed to some of their fields, by the names of these. */
const narrowed = new WeakMap<yup.Schema, Map<string, yup.Schema>>();
const MOST_NARROWED = 1000;

function report(error: yup.ValidationError, path: YamlPath, list: ErrorList): void {
  const steps = (error.path ?? '').split(/[.[\]]+/).filter((step) => step !== '');
  const whole = [...path, ...steps.map((step) => (/^\d+$/.test(step) ? Number(step) : step))];
  const problem = problemOf(error, path);
  const code = ERROR_CODES[problem.code];
  // What is missing has no place of its own.
  if (code === 'missing-field') list.atKey(steps.length > 0 ? whole.slice(0, -1) : whole, problem);
  else if (code === 'unknown-field') list.atKey(whole, problem);
  else list.atValue(whole, problem);
}

function problemOf(error: yup.ValidationError, path: YamlPath): SiteProblem {
  const { problem } = (error.params ?? {}) as { readonly problem?: SiteProblem };
  // The library's own test of the type has nothing but a message, which says what there should be a map or list of.
  if (!problem)
    return {
      code: error.params?.['type'] === 'array' ? 'not-a-list' : 'not-a-map',
      what: error.message,
    };
  return problem.code === 'wrong-type' && problem.field === null && path.length > 0
    ? { ...problem, field: String(path.at(-1)) }
    : problem;
}
