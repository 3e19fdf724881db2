import * as yup from 'yup';
import { didYouMean } from '../../text/nearest.ts';
import { inWords } from '../../text/list.ts';
import type { SiteErrorCode } from '../../model/site-error.ts';

/** What a failed test of the schema says besides its message. */
export interface Complaint {
  readonly code: SiteErrorCode;
  readonly remedy: string;
}

type Context = yup.TestContext;

export const complain = (
  context: Context,
  code: SiteErrorCode,
  message: string,
  remedy: string,
  path?: string,
) =>
  context.createError({
    message,
    params: { code, remedy },
    ...(path === undefined ? {} : { path }),
  });

/** A field whose value is present and passes `isRight`; `wanted` says what would be right. */
function field<T>(
  isRight: (value: unknown) => boolean,
  wanted: string,
  remedy: string,
): yup.Schema<T | undefined> {
  return yup
    .mixed<T & {}>()
    .nullable()
    .test('right', (value, context) => {
      if (value === undefined || isRight(value)) return true;
      return complain(
        context,
        'wrong-type',
        `"${context.path || 'This'}" must be ${wanted}.`,
        remedy,
      );
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
    field<string>((value) => typeof value === 'string', 'text', 'Put the text in quotes.'),
    { kind },
  );
export const textOrNothing = () =>
  withMeta(
    field<string | null>(
      (value) => typeof value === 'string' || value === null,
      'text',
      'Put the text in quotes.',
    ),
    { kind: 'text', isNullable: true },
  );
export const number = () =>
  withMeta(
    field<number>(
      (value) => Number.isInteger(value),
      'a whole number',
      'Write a whole number, such as 1.',
    ),
    { type: 'integer' },
  );
export const flag = () =>
  withMeta(
    field<Flag>(
      (value) => ['yes', 'no', true, false].includes(value as Flag),
      'yes or no',
      'Write yes or no.',
    ),
    { choices: ['yes', 'no', true, false] },
  );
export const textList = (kind: TextKind) =>
  withMeta(
    field<string | string[]>(
      (value) => typeof value === 'string' || isTextList(value),
      'an address or a list of addresses',
      'Write one, or several as [one, two].',
    ),
    { kind, isList: 'also' },
  );
export const names = (kind: TextKind = 'text') =>
  withMeta(field<string[]>(isTextList, 'a list of names', 'Write [one, two].'), {
    kind,
    isList: 'always',
  });
export const attributes = () =>
  withMeta(
    field<Record<string, unknown>>(
      (value) => isRecord(value) && Object.values(value).every(isAttribute),
      'a map of names to texts, numbers, yes/no values or lists of them',
      'Write { name: value }.',
    ),
    { type: 'map' },
  );

const isTextList = (value: unknown): boolean =>
  Array.isArray(value) && value.every((item) => typeof item === 'string');
const isAttribute = (value: unknown): boolean =>
  ['string', 'number', 'boolean'].includes(typeof value) ||
  (Array.isArray(value) && value.every((item) => ['string', 'number'].includes(typeof item)));

export const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

export const required = <T>(schema: yup.Schema<T | undefined>, example: string): yup.Schema<T> =>
  (withMeta(schema, { isRequired: true }) as yup.MixedSchema).test('present', (value, context) =>
    value === undefined
      ? complain(
          context,
          'missing-field',
          `"${lastStep(context.path)}" is missing.`,
          `Add it: ${example}`,
        )
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
      const message = `"${lastStep(context.path)}" must be ${inWords(values.map(String), 'or')}, not ${show(value)}.`;
      return complain(
        context,
        'wrong-value',
        message,
        didYouMean(String(value), values.map(String)),
      );
    }) as yup.Schema<T | undefined>;

const show = (value: unknown): string => (value === undefined ? 'nothing' : JSON.stringify(value));

/** Fields that the format has, and that this version does not read yet. */
export const LATER = new Set(['guarantees']);

export const notYet = (name: string): [SiteErrorCode, string, string] => [
  'not-yet',
  `"${name}" is not read by this version of Kleidon.`,
  'Remove it: a rule that is not applied must not look as if it were.',
];

/** An object with these fields and no others. */
export function fields<T extends yup.ObjectShape>(
  what: string,
  shape: T,
): yup.Schema<yup.TypeFromShape<T, yup.AnyObject>> {
  const known = Object.keys(shape);
  const schema = yup
    .object(shape)
    .default(undefined)
    .typeError(`${capitalized(what)} must be a map of names to values.`)
    .test('known', (value, context) => {
      if (!isRecord(value)) return true;
      const strangers = Object.keys(value).filter((name) => !known.includes(name));
      if (strangers.length === 0) return true;
      return new yup.ValidationError(
        strangers.map((name) => {
          const path = context.path ? `${context.path}.${name}` : name;
          if (LATER.has(name)) return complain(context, ...notYet(name), path);
          return complain(
            context,
            'unknown-field',
            `"${name}" is not a field of ${what}.`,
            didYouMean(name, known),
            path,
          );
        }),
      );
    });
  return schema as unknown as yup.Schema<yup.TypeFromShape<T, yup.AnyObject>>;
}

export const optional = <T>(schema: yup.Schema<T>): yup.Schema<T | undefined> => schema;

const capitalized = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

export const listOf = <T>(item: yup.Schema<T>, what: string): yup.Schema<T[] | undefined> =>
  yup
    .array(item as yup.ISchema<unknown>)
    .typeError(`"${what}" must be a list.`) as unknown as yup.Schema<T[] | undefined>;

/** `yes` and `no` are texts in YAML 1.2; both they and `true` and `false` are taken. */
export type Flag = 'yes' | 'no' | boolean;

export const isYes = (flag: Flag | undefined): boolean => flag === true || flag === 'yes';
