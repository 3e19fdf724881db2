import * as yup from 'yup';
import { model } from '@kleidon/core';
import { noOthers, text } from './fields.ts';
import { oneOrTwo, secretsOf, webhookSecret } from './webhook-secret.ts';

const NAME = /^[a-z0-9](?:[a-z0-9-]{0,62})$/;
/** The shop of what is done by hand; no shop in the settings has this name. */
export const BY_HAND = 'by-hand';
/** A field of a message (RFC 9110, 5.1). */
const HEADER = /^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/;
const WHAT_FOR = 'with it, a shop signs what it tells';
/** Fewer characters than these are soon guessed. */
const SHORTEST_SECRET = 16;

/** What the settings may call an event that does not matter here. */
export const IGNORED = 'ignore';
const TYPES: readonly string[] = [
  ...model.SHOP_EVENT_TYPES.filter((type) => type !== 'buyer.linked' && type !== 'buyer.unlinked'),
  IGNORED,
];

const pointer = (field: string) =>
  text().matches(/^(?:\/(?:[^~/]|~[01])*)+$/, {
    message: `"${field}" of the events is a JSON Pointer (RFC 6901), such as /order/number.`,
    excludeEmptyString: true,
  });

const header = (field: string) =>
  text().matches(HEADER, {
    message: `"${field}" is the name of a header.`,
    excludeEmptyString: true,
  });

/** Where the type of an event stands: in the body, or in a header, which no signature covers. */
const place = (field: string) =>
  yup.lazy((value: unknown) =>
    typeof value === 'object' && value !== null
      ? yup
          .object({
            header: header('header').required(`"${field}" of the events needs "header": its name.`),
          })
          .noUnknown(noOthers)
      : pointer(field),
  );

const names = (values: Readonly<Record<string, yup.Schema>>) =>
  yup.object(values as Record<string, yup.StringSchema>);

const eventsSchema = yup
  .object({
    id: pointer('id'),
    type: place('type'),
    at: pointer('at'),
    purchase: pointer('purchase'),
    product: pointer('product'),
    email: pointer('email'),
    visitor: pointer('visitor'),
    from: pointer('from'),
    until: pointer('until'),
    partly: pointer('partly'),
    'former-email': pointer('former-email'),
    types: yup.lazy((value: unknown) =>
      names(
        Object.fromEntries(
          Object.keys(value ?? {}).map((one) => [
            one,
            text()
              .required()
              .oneOf(TYPES, `"types" of the events says one of ${TYPES.join(', ')}.`),
          ]),
        ),
      ).required('"types" of the events is missing: what each type of the shop means here.'),
    ),
    products: yup.lazy((value: unknown) =>
      names(
        Object.fromEntries(Object.keys(value ?? {}).map((one) => [one, text().required()])),
      ).default(undefined),
    ),
  })
  .noUnknown(noOthers)
  .default(undefined)
  .test(
    'type',
    '"type" of the events is missing: where the type of an event stands.',
    (events?: { type?: unknown }) => events === undefined || events.type !== undefined,
  );

const signatureSchema = yup
  .object({
    header: header('header').required(
      '"header" of a signature is missing: the header in which it comes.',
    ),
    as: text().oneOf(['hex', 'base64'], '"as" of a signature is hex or base64.').default('hex'),
    prefix: text(),
    time: header('time'),
  })
  .noUnknown(noOthers)
  .default(undefined);

/** A shop in the settings: whose events are taken, and for which site. */
export const shopSchema = yup.lazy((value: unknown) =>
  yup
    .object({
      name: text()
        .required('"name" of a shop is missing: its events come to /api/shops/NAME/events.')
        .matches(NAME, {
          message: '"name" of a shop has small letters, digits and hyphens, 63 at most.',
        })
        .notOneOf([BY_HAND], `"${BY_HAND}" is the name of what is done by hand.`),
      site: text().required('"site" of a shop is missing: the name of a site of this service.'),
      secret: hasOwnSignature(value)
        ? oneOrTwo(ownSecret, 'a shop', WHAT_FOR)
        : webhookSecret('a shop', WHAT_FOR),
      signature: signatureSchema,
      events: eventsSchema,
    })
    .noUnknown(noOthers),
);

const hasOwnSignature = (value: unknown): boolean =>
  (value as { signature?: unknown } | null)?.signature !== undefined;

/** The secret of a shop that signs in a way of its own: any text. */
const ownSecret = () =>
  text().min(
    SHORTEST_SECRET,
    `"secret" of a shop has at least ${SHORTEST_SECRET} characters: shorter ones are soon guessed.`,
  );

/** Where something stands in what comes: a JSON Pointer into the body, or a header. */
export type Place = string | { readonly header: string };

/** What the events of a shop mean that has a form of its own. */
export interface EventMapping {
  /** In the body, which is signed; without one, the same body is the same event. */
  readonly id?: string | undefined;
  readonly type: Place;
  readonly fields: Readonly<Partial<Record<MappedField, string>>>;
  readonly types: Readonly<Record<string, string>>;
  /** What its products are called here, where they have another name. */
  readonly products: Readonly<Record<string, string>>;
}
export const MAPPED_FIELDS = [
  ...(['at', 'purchase', 'product', 'email', 'visitor'] as const),
  ...(['from', 'until', 'partly', 'former-email'] as const),
] as const;
export type MappedField = (typeof MAPPED_FIELDS)[number];

/** How a shop signs that does not do so by Standard Webhooks: HMAC-SHA256 (RFC 2104) in a header. */
export interface OwnSignature {
  readonly header: string;
  readonly as: 'hex' | 'base64';
  /** What stands before it. */
  readonly prefix: string;
  /** The header with the seconds since 1970, signed before the body with a full stop between; null where the body alone is signed. */
  readonly time: string | null;
}

/** Whose events are taken, and the secrets of which one must have signed each. */
export interface ShopSettings {
  readonly name: string;
  readonly site: string;
  readonly secrets: readonly string[];
  /** Null by Standard Webhooks. */
  readonly signature: OwnSignature | null;
  /** Null where events come in the form of this service. */
  readonly events: EventMapping | null;
}

interface Said {
  readonly name: string;
  readonly site: string;
  readonly secret: unknown;
  readonly signature?: { header: string; as: string; prefix?: string; time?: string } | undefined;
  readonly events?:
    | (Partial<Record<MappedField, string>> & {
        id?: string;
        type?: Place;
        types: Record<string, string>;
        products?: Record<string, string>;
      })
    | undefined;
}

/** A shop as it is used, from what the settings say. */
export function shopOf(said: unknown): ShopSettings {
  const { name, site, secret, signature, events } = said as Said;
  return {
    name,
    site,
    secrets: secretsOf(secret),
    signature: signature
      ? {
          header: signature.header,
          as: signature.as === 'base64' ? 'base64' : 'hex',
          prefix: signature.prefix ?? '',
          time: signature.time ?? null,
        }
      : null,
    events: events
      ? {
          id: events.id,
          type: events.type!,
          fields: Object.fromEntries(
            MAPPED_FIELDS.flatMap((field) =>
              events[field] === undefined ? [] : [[field, events[field]]],
            ),
          ),
          types: events.types,
          products: events.products ?? {},
        }
      : null,
  };
}
