import * as yup from 'yup';
import { didYouMean } from '../text/nearest.ts';
import { inWords } from '../text/list.ts';
import type { SiteErrorCode } from './problem.ts';

/** What a failed test of the schema says besides its message. */
export interface Complaint {
  readonly code: SiteErrorCode;
  readonly remedy: string;
}

type Context = yup.TestContext;

const complain = (
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

const text = () =>
  field<string>((value) => typeof value === 'string', 'text', 'Put the text in quotes.');
const textOrNothing = () =>
  field<string | null>(
    (value) => typeof value === 'string' || value === null,
    'text',
    'Put the text in quotes.',
  );
const number = () =>
  field<number>(
    (value) => Number.isInteger(value),
    'a whole number',
    'Write a whole number, such as 1.',
  );
const flag = () =>
  field<Flag>(
    (value) => ['yes', 'no', true, false].includes(value as Flag),
    'yes or no',
    'Write yes or no.',
  );
const textList = () =>
  field<string | string[]>(
    (value) => typeof value === 'string' || isTextList(value),
    'an address or a list of addresses',
    'Write one, or several as [one, two].',
  );
const names = () => field<string[]>(isTextList, 'a list of names', 'Write [one, two].');
const attributes = () =>
  field<Record<string, unknown>>(
    (value) => isRecord(value) && Object.values(value).every(isAttribute),
    'a map of names to texts, numbers, yes/no values or lists of them',
    'Write { name: value }.',
  );

const isTextList = (value: unknown): boolean =>
  Array.isArray(value) && value.every((item) => typeof item === 'string');
const isAttribute = (value: unknown): boolean =>
  ['string', 'number', 'boolean'].includes(typeof value) ||
  (Array.isArray(value) && value.every((item) => ['string', 'number'].includes(typeof item)));

export const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

const required = <T>(schema: yup.Schema<T | undefined>, example: string): yup.Schema<T> =>
  (schema as yup.MixedSchema).test('present', (value, context) =>
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

const oneOf = <T extends string | number>(...values: readonly T[]): yup.Schema<T | undefined> =>
  yup.mixed<T>().test('choice', (value, context) => {
    if (value === undefined || (values as readonly unknown[]).includes(value)) return true;
    const message = `"${lastStep(context.path)}" must be ${inWords(values.map(String), 'or')}, not ${show(value)}.`;
    return complain(context, 'wrong-value', message, didYouMean(String(value), values.map(String)));
  }) as yup.Schema<T | undefined>;

const show = (value: unknown): string => (value === undefined ? 'nothing' : JSON.stringify(value));

/** Fields that the format has, and that this version does not read yet. */
const LATER = new Set(['guarantees']);

const notYet = (name: string): [SiteErrorCode, string, string] => [
  'not-yet',
  `"${name}" is not read by this version of Kleidon.`,
  'Remove it: a rule that is not applied must not look as if it were.',
];

/** An object with these fields and no others. */
function fields<T extends yup.ObjectShape>(
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

const optional = <T>(schema: yup.Schema<T>): yup.Schema<T | undefined> => schema;

const capitalized = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

const listOf = <T>(item: yup.Schema<T>, what: string): yup.Schema<T[] | undefined> =>
  yup
    .array(item as yup.ISchema<unknown>)
    .typeError(`"${what}" must be a list.`) as unknown as yup.Schema<T[] | undefined>;

/** `yes` and `no` are texts in YAML 1.2; both they and `true` and `false` are taken. */
export type Flag = 'yes' | 'no' | boolean;

export const isYes = (flag: Flag | undefined): boolean => flag === true || flag === 'yes';

const purchase = fields('a purchase', {
  product: required(text(), 'product: hide-permit'),
  from: text(),
  until: text(),
  refunded: flag(),
  paused: flag(),
});

export const siteSchema = fields('site', {
  name: required(text(), 'name: My site'),
  address: required(text(), 'address: https://www.example'),
  also: textList(),
  ungated: oneOf('open', 'closed'),
  change: oneOf('as-view', 'gated-only'),
  'sign-in': text(),
  'full-access': text(),
  'time-zone': text(),
  servers: textList(),
  tidy: optional(
    fields('tidy', {
      case: oneOf('lower', 'keep'),
      'final-slash': oneOf('drop', 'add', 'keep'),
      endings: names(),
      index: names(),
      words: oneOf('-', '_', 'keep'),
    }),
  ),
});

const productSchema = fields('a product', {
  title: text(),
  term: oneOf('subscription', 'once'),
  'buy-at': text(),
});

const pageSchema = fields('a page', {
  title: text(),
  kind: oneOf('document', 'file'),
  'missing-unless': text(),
  from: text(),
  until: text(),
  draft: flag(),
  'leads-to': text(),
  https: oneOf('required'),
  refresh: text(),
  listed: flag(),
  example: text(),
  aliases: textList(),
});

const gateSchema = fields('a gate', {
  under: textList(),
  at: textList(),
  right: oneOf('view', 'change'),
  admit: required(text(), 'admit: signed-in'),
  from: text(),
  until: text(),
  narrows: flag(),
  otherwise: listOf(
    fields('otherwise', {
      who: text(),
      do: required(oneOf('sign-in', 'refuse', 'send', 'offer', 'hide'), 'do: refuse'),
      say: text(),
      show: text(),
      to: text(),
    }),
    'otherwise',
  ),
  rank: number(),
}).test('somewhere', (value, context) =>
  isRecord(value) && value['under'] === undefined && value['at'] === undefined
    ? complain(
        context,
        'missing-field',
        'A gate must say where it stands.',
        'Add "under: /section" or "at: /page".',
      )
    : true,
);

export const redirectSchema = fields('a redirect', {
  from: required(text(), 'from: /old'),
  to: required(text(), 'to: /new'),
  kind: oneOf('permanent', 'temporary'),
  query: oneOf('keep', 'drop'),
  when: text(),
  since: text(),
  until: text(),
  'unless-page': flag(),
  'keep-for': text(),
  wait: text(),
  say: text(),
  note: text(),
  rank: number(),
});

const rewriteSchema = fields('a rewrite', {
  from: required(text(), 'from: /people/:name'),
  serve: required(text(), 'serve: /activity?person=:name'),
  canonical: flag(),
  when: text(),
  since: text(),
  until: text(),
  'unless-page': flag(),
  note: text(),
  rank: number(),
});

const notFoundSchema = fields('a not-found rule', {
  under: required(text(), 'under: /'),
  show: text(),
  say: text(),
  status: oneOf(404, 410),
  rank: number(),
}).test('something', (value, context) =>
  isRecord(value) && value['show'] === undefined && value['say'] === undefined
    ? complain(
        context,
        'missing-field',
        'A not-found rule must say what is shown.',
        'Add "show: /page" or "say: Some words".',
      )
    : true,
);

const landingSchema = fields('a landing', {
  after: required(oneOf('sign-in', 'sign-out'), 'after: sign-in'),
  who: text(),
  go: required(text(), 'go: /'),
  'return-first': flag(),
  rank: number(),
});

const partSchema = fields('a part', { admit: required(text(), 'admit: signed-in') });

const menuSchema = fields('a menu', {
  links: required(textList(), 'links: [/, /about]'),
  on: textList(),
  shows: oneOf('everything', 'usable'),
});

const acceptedSchema = fields('an accepted finding', {
  finding: required(text(), 'finding: tie'),
  about: text(),
  note: required(text(), 'note: On purpose, because …'),
});

/** One visitor; the same shape is used for one made up on the spot. */
export const visitorSchema = fields('a visitor', {
  title: text(),
  guest: flag(),
  id: text(),
  roles: names(),
  groups: names(),
  bought: listOf(purchase, 'bought'),
  attributes: attributes(),
  language: text(),
});

/** The sections of a site file: what each of their entries looks like, and whether they have names. */
export const SECTIONS = {
  roles: { is: 'map', entry: textOrNothing() },
  groups: { is: 'map', entry: textOrNothing() },
  products: { is: 'map', entry: productSchema },
  audiences: { is: 'map', entry: required(text(), 'crew: role volunteer') },
  pages: { is: 'map', entry: pageSchema },
  gates: { is: 'map', entry: gateSchema },
  redirects: { is: 'list', entry: redirectSchema },
  'redirect-lists': { is: 'list', entry: required(text(), 'redirect-lists: [old-site.csv]') },
  rewrites: { is: 'list', entry: rewriteSchema },
  'not-found': { is: 'list', entry: notFoundSchema },
  landings: { is: 'list', entry: landingSchema },
  parts: { is: 'map', entry: partSchema },
  menus: { is: 'map', entry: menuSchema },
  accepted: { is: 'list', entry: acceptedSchema },
  visitors: { is: 'map', entry: visitorSchema },
} as const satisfies Record<string, { is: 'map' | 'list'; entry: yup.Schema }>;

export type SectionName = keyof typeof SECTIONS;

/** What can stand at the top of a site file. */
const TOP_LEVEL = ['kleidon', 'site', ...Object.keys(SECTIONS)];

/** What is wrong with a name at the top of a site file; null when nothing is. */
export function complaintAboutSection(name: string): [SiteErrorCode, string, string] | null {
  if (TOP_LEVEL.includes(name)) return null;
  if (LATER.has(name)) return notYet(name);
  return ['unknown-field', `"${name}" is not a part of a site file.`, didYouMean(name, TOP_LEVEL)];
}
