import * as yup from 'yup';
import { wording } from '@kleidon/core';
import { resolved, type DescribedCall, type JsonSchema } from './description.ts';
import { Problem } from './problem.ts';

/**
 * Validates what a request brought.
 * @throws Problem `wrong-request` that lists every error with a JSON Pointer (RFC 6901) to its place
 */
export function validated(schema: yup.Schema, value: unknown): unknown {
  try {
    return schema.validateSync(value, { abortEarly: false, stripUnknown: false });
  } catch (error) {
    if (!(error instanceof yup.ValidationError)) throw error;
    const errors = (error.inner.length > 0 ? error.inner : [error]).map(({ path, message }) => ({
      pointer: path ? `/${path.replace(/[.[\]]+/g, '/').replace(/\/$/, '')}` : '',
      message,
    }));
    throw new Problem('wrong-request', errors.map(({ message }) => message).join(' '), { errors });
  }
}

/** What a call takes in its path and query, each of which comes as text. */
export function parametersSchema(
  parameters: DescribedCall['parameters'],
  from: 'path' | 'query',
): yup.Schema {
  const shape = parameters
    .filter((one) => one.in === from)
    .map(({ name, required = false, schema }) => {
      const field = fieldSchema(resolved(schema), name, 'text');
      return [name, required ? field.required(isMissing(name)) : field] as const;
    });
  return yup.object(Object.fromEntries(shape));
}

/** What a call takes as its body, as JSON. */
export function bodySchema(schema: JsonSchema): yup.Schema {
  const described = resolved(schema);
  const body = fieldSchema(described, BODY, 'json');
  return described.oneOf ? body : (body.required(isMissing(BODY)) as yup.Schema);
}

/** Whether a value comes as text, of which numbers are read, or as JSON. */
type Source = 'text' | 'json';

/** What the body as a whole is called in messages; its fields stand in quotes. */
const BODY = 'The body';

const named = (name: string): string => (name === BODY ? BODY : `"${name}"`);

const isMissing = (name: string): string => `${named(name)} is missing.`;

/** A field by its schema; absent where the schema of what it stands in does not require it. */
function fieldSchema(schema: JsonSchema, name: string, source: Source): yup.Schema {
  const { type, oneOf, default: absent } = schema;
  if (oneOf) return variantSchema(oneOf.map(resolved));
  const field: yup.Schema =
    type === 'array'
      ? arraySchema(schema, name, source)
      : type === 'object'
        ? objectSchema(schema, name, source)
        : type === 'integer' || type === 'number'
          ? numberSchema(schema, name, source)
          : type === 'boolean'
            ? yup
                .boolean()
                .typeError(`"${name}" is true or false.`)
                .strict(source === 'json')
            : type === 'string' || schema.enum || schema.const !== undefined
              ? textSchema(schema, name, source)
              : yup.mixed().nullable();
  return absent === undefined ? field : (field.default(absent) as yup.Schema);
}

function textSchema(schema: JsonSchema, name: string, source: Source): yup.Schema {
  const { pattern, maxLength, enum: values, const: only, 'x-message': message } = schema;
  let text = yup
    .string()
    .strict(source === 'json')
    .typeError(`"${name}" is a text.`);
  if (pattern !== undefined)
    text = text.matches(new RegExp(pattern, 'u'), message ?? `"${name}" does not fit ${pattern}.`);
  if (maxLength !== undefined)
    text = text.max(maxLength, `"${name}" has at most ${maxLength} characters.`);
  const choices = values ?? (only === undefined ? undefined : [only]);
  return choices ? text.oneOf(choices, `"${name}" is one of ${choices.join(', ')}.`) : text;
}

function numberSchema(schema: JsonSchema, name: string, source: Source): yup.Schema {
  const { type, minimum, maximum } = schema;
  const kind = type === 'integer' ? 'a whole number' : 'a number';
  let number = yup
    .number()
    .strict(source === 'json')
    .typeError(`"${name}" is ${kind}.`);
  if (type === 'integer') number = number.integer(`"${name}" is ${kind}.`);
  if (minimum !== undefined) number = number.min(minimum, `"${name}" is at least ${minimum}.`);
  return maximum === undefined ? number : number.max(maximum, `"${name}" is at most ${maximum}.`);
}

function arraySchema(schema: JsonSchema, name: string, source: Source): yup.Schema {
  const { items = {}, maxItems } = schema;
  const item = resolved(items);
  const field = fieldSchema(item, name, source);
  const entry = item.oneOf
    ? field
    : (field.defined(`An entry of ${named(name)} is missing.`) as yup.Schema);
  let list = yup.array(entry).typeError(`${named(name)} is a list.`);
  if (maxItems !== undefined)
    list = list.max(maxItems, `${named(name)} has at most ${maxItems} entries.`);
  return source === 'json' ? list.strict() : list.transform(readRepeated);
}

/** A parameter that may be repeated, or hold several values with commas between. */
const readRepeated = (_: unknown, given: unknown): unknown =>
  given === undefined
    ? undefined
    : [given as string | string[]].flat().flatMap((one) => one.split(','));

function objectSchema(schema: JsonSchema, name: string, source: Source): yup.Schema {
  const { properties = {}, required = [], additionalProperties } = schema;
  const shape = Object.entries(properties).map(([field, described]) => {
    const inner = fieldSchema(resolved(described), field, source);
    return [field, required.includes(field) ? requiredIn(inner, field) : inner] as const;
  });
  const object = yup
    .object(Object.fromEntries(shape) as yup.ObjectShape)
    // An object that is not there has no fields that are missing in it.
    .default(undefined)
    .typeError(`${named(name)} is an object.`);
  return (additionalProperties === false
    ? object.noUnknown('"${unknown}" is not a field here.')
    : object) as unknown as yup.Schema;
}

/** A field that must be there; it may be empty or null where its own schema takes that. */
const requiredIn = (field: yup.Schema, name: string): yup.Schema =>
  field.test('there', isMissing(name), (value) => value !== undefined);

/** One of several objects, told apart by the first field that has fixed values in each. */
function variantSchema(variants: readonly JsonSchema[]): yup.Schema {
  const [first] = variants;
  const key = Object.entries(first?.properties ?? {}).find(([, one]) => fixedValues(one))?.[0];
  if (key === undefined) throw new Error('The variants of a request have no field in common.');
  const valuesOf = (variant: JsonSchema): readonly string[] =>
    fixedValues(variant.properties?.[key]) ?? [];
  const schemas = variants.map((variant) => ({
    values: valuesOf(variant),
    schema: fieldSchema(variant, BODY, 'json'),
  }));
  const known = yup
    .mixed()
    .nullable()
    .test(
      'kind',
      `"${key}" is one of ${schemas.flatMap(({ values }) => values).join(', ')}.`,
      () => false,
    );
  return yup.lazy((value: unknown) => {
    const kind = (value as Record<string, unknown> | null | undefined)?.[key];
    return schemas.find(({ values }) => values.includes(kind as string))?.schema ?? known;
  }) as unknown as yup.Schema;
}

const fixedValues = (schema: JsonSchema | undefined): readonly string[] | undefined =>
  schema?.enum ?? (schema?.const === undefined ? undefined : [schema.const]);

/**
 * Refuses query parameters that a call does not take: one that is left unread would be answered as if it
 * had not been asked for.
 */
export function refuseUnknownQuery({ parameters }: DescribedCall, query: object): void {
  const known = parameters.flatMap((one) => (one.in === 'query' ? [one.name] : []));
  const errors = Object.keys(query)
    .filter((name) => !known.includes(name))
    .map((name) => ({
      pointer: '',
      parameter: name,
      message: `"${name}" is not a query parameter of this call. ${known.length === 0 ? 'It takes none.' : wording.didYouMean(name, known)}`,
    }));
  if (errors.length > 0)
    throw new Problem('wrong-request', errors.map(({ message }) => message).join(' '), { errors });
}
