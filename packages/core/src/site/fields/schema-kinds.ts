import { isRecord } from '../../model/plain-value.ts';
import * as yup from 'yup';
import { suggest } from '../../text/nearest.ts';
import type { SiteProblem, WantedType } from '../../model/site-error.ts';

type Context = yup.TestContext;

/** A failed test, with what is wrong as data; the message is for nobody. */
export const complain = (context: Context, problem: SiteProblem, path?: string) =>
  context.createError({
    message: problem.code,
    params: { problem },
    ...(path === undefined ? {} : { path }),
  });

/** A field whose value is present and passes `isRight`; `wanted` says what would be right. */
function field<T>(
  isRight: (value: unknown) => boolean,
  wanted: WantedType,
): yup.Schema<T | undefined> {
  return yup
    .mixed<T & {}>()
    .nullable()
    .test('right', (value, context) => {
      if (value === undefined || isRight(value)) return true;
      return complain(context, { code: 'wrong-type', field: context.path || null, wanted });
    }) as yup.Schema<T | undefined>;
}

/** What a text of a site file means: what is renamed with what, completed, and checked by whom follows from it. */
export type TextKind =
  | 'text'
  /** The address of a page, or a target with the pieces of a pattern. */
  | 'address'
  /** For which addresses a rule stands. */
  | 'scope'
  | 'pattern'
  | 'condition'
  | 'moment'
  | 'duration'
  | 'role'
  | 'group'
  | 'product'
  | 'visitor'
  | 'finding'
  | 'host';

/** What the declaration of a field says besides its tests. */
export interface FieldMeta {
  /** What it is called in forms. */
  readonly title?: string | undefined;
  /** What else is to be known to fill it in. */
  readonly help?: string | undefined;
  readonly kind?: TextKind;
  /** Texts, numbers or flags that it may be. */
  readonly choices?: readonly (string | number | boolean)[];
  /** Numbers that are read as a choice each; forms do not offer them. */
  readonly codes?: readonly number[];
  /** What holds where nothing is written. */
  readonly usual?: string | number | null;
  readonly isRequired?: boolean;
  /** Few entries have it: forms show it on demand. */
  readonly isSeldom?: boolean;
  /** One, or a list of them. */
  readonly isList?: 'also' | 'always';
  /** Nothing may stand in its place. */
  readonly isNullable?: boolean;
  readonly type?: 'integer' | 'flag' | 'map';
  /** What one entry of a list of entries is called. */
  readonly one?: string;
  /** Other names of its column in a CSV file. */
  readonly columns?: readonly string[];
}

/** What the declaration of a field says. */
const withMeta = <T>(schema: yup.Schema<T>, meta: FieldMeta): yup.Schema<T> =>
  schema.meta(meta as Record<string, unknown>);

/** A text of a kind. */
export const text = (kind: TextKind, title: string, help?: string) =>
  withMeta(
    kind === 'condition' ? condition : field<string>((value) => typeof value === 'string', 'text'),
    { kind, title, help },
  );

/** A list of conditions does not say whether one or all of them must hold. */
const condition = yup
  .mixed<string>()
  .nullable()
  .test('right', (value: unknown, context) => {
    if (value === undefined || typeof value === 'string') return true;
    const field = lastStep(context.path);
    return complain(
      context,
      isTextList(value)
        ? { code: 'condition-list', field, items: value }
        : { code: 'wrong-type', field: context.path || null, wanted: 'text' },
    );
  }) as yup.Schema<string | undefined>;

/** A text, or nothing where nothing is to be said. */
export const textOrNothing = (title: string) =>
  withMeta(
    field<string | null>((value) => typeof value === 'string' || value === null, 'text'),
    { kind: 'text', title, isNullable: true },
  );

/** A whole number. */
export const number = (title: string, help?: string) =>
  withMeta(
    field<number>((value) => Number.isInteger(value), 'integer'),
    { type: 'integer', title, help },
  );

/** Yes or no; `title` says what the other value than the usual one means. */
export const flag = (usual: 'yes' | 'no', title: string) =>
  withMeta(
    field<Flag>((value) => ['yes', 'no', true, false].includes(value as Flag), 'flag'),
    { type: 'flag', choices: ['yes', 'no', true, false], usual, title },
  );

/** A text of a kind, or a list of them. */
export const textList = (kind: TextKind, title: string, help?: string) =>
  withMeta(
    field<string | string[]>(
      (value) => typeof value === 'string' || isTextList(value),
      'one-or-list',
    ),
    { kind, isList: 'also', title, help },
  );

/** A list of names. */
export const names = (kind: TextKind, title: string, help?: string) =>
  withMeta(field<string[]>(isTextList, 'names'), { kind, isList: 'always', title, help });

/** Names with values. */
export const attributes = (title: string, help?: string) =>
  withMeta(
    field<Record<string, unknown>>(
      (value) => isRecord(value) && Object.values(value).every(isAttribute),
      'attributes',
    ),
    { type: 'map', title, help },
  );

/** The field is a column of CSV files; `others` are other names of it there. */
export const column = <T>(schema: yup.Schema<T>, ...others: readonly string[]): yup.Schema<T> =>
  withMeta(schema, { columns: others });

const isTextList = (value: unknown): value is string[] =>
  Array.isArray(value) && value.every((item) => typeof item === 'string');
const isAttribute = (value: unknown): boolean =>
  ['string', 'number', 'boolean'].includes(typeof value) ||
  (Array.isArray(value) && value.every((item) => ['string', 'number'].includes(typeof item)));

/** A field that every entry has; `example` shows how it is written. */
export const required = <T>(schema: yup.Schema<T | undefined>, example: string): yup.Schema<T> =>
  (withMeta(schema, { isRequired: true }) as yup.MixedSchema).test('present', (value, context) =>
    value === undefined
      ? complain(context, { code: 'missing-field', field: lastStep(context.path), example })
      : true,
  ) as unknown as yup.Schema<T>;

const lastStep = (path: string): string => path.split('.').at(-1)!;

/**
 * One of some values; `usual` is the one that holds where nothing is written.
 *
 * @param codes numbers that are read as one of the values each
 */
export const oneOf = <const T extends string | number>(
  values: readonly T[],
  usual: NoInfer<T> | null,
  title: string,
  help?: string,
  codes: readonly number[] = [],
): yup.Schema<T | undefined> =>
  yup
    .mixed<T>()
    .meta({ choices: values, usual, title, help, codes })
    .test('choice', (value, context) => {
      if (value === undefined || ([...values, ...codes] as readonly unknown[]).includes(value))
        return true;
      const choices = values.map(String);
      return complain(context, {
        code: 'not-one-of',
        field: lastStep(context.path),
        value,
        choices,
        suggestion: suggest(String(value), choices),
      });
    }) as yup.Schema<T | undefined>;

/** One of some values, or a list of them. */
export const someOf = <const T extends string>(
  values: readonly T[],
  title: string,
  help?: string,
): yup.Schema<T | T[] | undefined> =>
  yup
    .mixed<T | T[]>()
    .meta({ choices: values, isList: 'also', title, help })
    .test('choices', (value: unknown, context) => {
      if (value === undefined) return true;
      const field = lastStep(context.path);
      const given: readonly unknown[] = Array.isArray(value) ? value : [value];
      if (given.length === 0) return complain(context, { code: 'empty-entry', name: field });
      const wrong = given.find((one) => !(values as readonly unknown[]).includes(one));
      if (wrong === undefined) return true;
      const choices = [...values];
      const suggestion = suggest(typeof wrong === 'string' ? wrong : '', choices);
      return complain(context, { code: 'not-one-of', field, value: wrong, choices, suggestion });
    }) as yup.Schema<T | T[] | undefined>;

/**
 * An object with these fields and no others.
 *
 * @param seldom the fields that few entries have
 */
export function fields<T extends yup.ObjectShape>(
  what: string,
  shape: T,
  seldom: readonly (keyof T & string)[] = [],
): yup.Schema<yup.TypeFromShape<T, yup.AnyObject>> {
  const known = Object.keys(shape);
  const marked = seldom.map((name) => [
    name,
    withMeta(shape[name] as yup.Schema, { isSeldom: true }),
  ]);
  const schema = yup
    .object({ ...shape, ...(Object.fromEntries(marked) as T) })
    .default(undefined)
    .typeError(what)
    .test('known', (value, context) => {
      if (!isRecord(value)) return true;
      const strangers = Object.keys(value).filter((name) => !known.includes(name));
      if (strangers.length === 0) return true;
      return new yup.ValidationError(
        strangers.map((name) => {
          const path = context.path ? `${context.path}.${name}` : name;
          const suggestion = suggest(name, known);
          return complain(
            context,
            { code: 'unknown-field', field: name, of: what, suggestion },
            path,
          );
        }),
      );
    });
  return schema as unknown as yup.Schema<yup.TypeFromShape<T, yup.AnyObject>>;
}

/** Fields within a field. */
export const group = <T>(schema: yup.Schema<T>, title: string): yup.Schema<T | undefined> =>
  withMeta(schema, { title });

/** A list of entries; `one` is what one of them is called. */
export const listOf = <T>(
  item: yup.Schema<T>,
  what: string,
  title: string,
  one: string,
): yup.Schema<T[] | undefined> => {
  const list = yup.array(item as yup.ISchema<unknown>).typeError(what);
  return withMeta(list as unknown as yup.Schema<T[] | undefined>, { title, one });
};

/** `yes` and `no` are texts in YAML 1.2; both they and `true` and `false` are taken. */
export type Flag = 'yes' | 'no' | boolean;

/** Whether a flag is set. */
export const isYes = (flag: Flag | undefined): boolean => flag === true || flag === 'yes';
