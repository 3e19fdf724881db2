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
  | 'finding'
  | 'host';

/** What the declaration of a field says besides its tests. */
export interface FieldMeta {
  readonly kind?: TextKind;
  /** Texts, numbers or flags that it may be. */
  readonly choices?: readonly (string | number | boolean)[];
  readonly isRequired?: boolean;
  /** One, or a list of them. */
  readonly isList?: 'also' | 'always';
  /** Nothing may stand in its place. */
  readonly isNullable?: boolean;
  readonly type?: 'integer' | 'map';
}

/** What the declaration of a field says. */
const withMeta = <T>(schema: yup.Schema<T>, meta: FieldMeta): yup.Schema<T> =>
  schema.meta(meta as Record<string, unknown>);

export const text = (kind: TextKind = 'text') =>
  withMeta(
    field<string>((value) => typeof value === 'string', 'text'),
    { kind },
  );
export const textOrNothing = () =>
  withMeta(
    field<string | null>((value) => typeof value === 'string' || value === null, 'text'),
    { kind: 'text', isNullable: true },
  );
export const number = () =>
  withMeta(
    field<number>((value) => Number.isInteger(value), 'integer'),
    { type: 'integer' },
  );
export const flag = () =>
  withMeta(
    field<Flag>((value) => ['yes', 'no', true, false].includes(value as Flag), 'flag'),
    { choices: ['yes', 'no', true, false] },
  );
export const textList = (kind: TextKind) =>
  withMeta(
    field<string | string[]>(
      (value) => typeof value === 'string' || isTextList(value),
      'one-or-list',
    ),
    { kind, isList: 'also' },
  );
export const names = (kind: TextKind = 'text') =>
  withMeta(field<string[]>(isTextList, 'names'), {
    kind,
    isList: 'always',
  });
export const attributes = () =>
  withMeta(
    field<Record<string, unknown>>(
      (value) => isRecord(value) && Object.values(value).every(isAttribute),
      'attributes',
    ),
    { type: 'map' },
  );

const isTextList = (value: unknown): boolean =>
  Array.isArray(value) && value.every((item) => typeof item === 'string');
const isAttribute = (value: unknown): boolean =>
  ['string', 'number', 'boolean'].includes(typeof value) ||
  (Array.isArray(value) && value.every((item) => ['string', 'number'].includes(typeof item)));

export const required = <T>(schema: yup.Schema<T | undefined>, example: string): yup.Schema<T> =>
  (withMeta(schema, { isRequired: true }) as yup.MixedSchema).test('present', (value, context) =>
    value === undefined
      ? complain(context, { code: 'missing-field', field: lastStep(context.path), example })
      : true,
  ) as unknown as yup.Schema<T>;

const lastStep = (path: string): string => path.split('.').at(-1)!;

export const oneOf = <T extends string | number>(
  ...values: readonly T[]
): yup.Schema<T | undefined> =>
  yup
    .mixed<T>()
    .meta({ choices: values })
    .test('choice', (value, context) => {
      if (value === undefined || (values as readonly unknown[]).includes(value)) return true;
      const choices = values.map(String);
      return complain(context, {
        code: 'not-one-of',
        field: lastStep(context.path),
        value,
        choices,
        suggestion: suggest(String(value), choices),
      });
    }) as yup.Schema<T | undefined>;

/** Fields that the format has, and that this version does not read yet. */
export const LATER = new Set(['guarantees']);

/** An object with these fields and no others. */
export function fields<T extends yup.ObjectShape>(
  what: string,
  shape: T,
): yup.Schema<yup.TypeFromShape<T, yup.AnyObject>> {
  const known = Object.keys(shape);
  const schema = yup
    .object(shape)
    .default(undefined)
    .typeError(what)
    .test('known', (value, context) => {
      if (!isRecord(value)) return true;
      const strangers = Object.keys(value).filter((name) => !known.includes(name));
      if (strangers.length === 0) return true;
      return new yup.ValidationError(
        strangers.map((name) => {
          const path = context.path ? `${context.path}.${name}` : name;
          const problem: SiteProblem = LATER.has(name)
            ? { code: 'not-yet', name }
            : { code: 'unknown-field', field: name, of: what, suggestion: suggest(name, known) };
          return complain(context, problem, path);
        }),
      );
    });
  return schema as unknown as yup.Schema<yup.TypeFromShape<T, yup.AnyObject>>;
}

export const optional = <T>(schema: yup.Schema<T>): yup.Schema<T | undefined> => schema;

export const listOf = <T>(item: yup.Schema<T>, what: string): yup.Schema<T[] | undefined> =>
  yup.array(item as yup.ISchema<unknown>).typeError(what) as unknown as yup.Schema<T[] | undefined>;

/** `yes` and `no` are texts in YAML 1.2; both they and `true` and `false` are taken. */
export type Flag = 'yes' | 'no' | boolean;

export const isYes = (flag: Flag | undefined): boolean => flag === true || flag === 'yes';
