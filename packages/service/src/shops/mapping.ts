import { createHash } from 'node:crypto';
import jsonpointer from 'jsonpointer';
import {
  IGNORED,
  type EventMapping,
  type MappedField,
  type Place,
  type ShopSettings,
} from '../settings/shops.ts';
import type { HeaderOf } from './signature.ts';

/** An event of a shop in the form of this service, which is yet to be checked; or why there is none. */
export type Mapped =
  | { readonly is: 'event'; readonly event: unknown }
  | { readonly is: 'ignored'; readonly type: string }
  | { readonly is: 'unknown'; readonly problem: string };

/**
 * The id of an event: where the settings say that it stands in the body, or the `webhook-id` that was signed with it.
 * Without one, the same body is the same event: an id that is not signed would let an event count twice.
 */
export function idOf(
  { events, signature }: ShopSettings,
  body: unknown,
  raw: Buffer,
  header: HeaderOf,
): string {
  const said =
    events?.id !== undefined
      ? at(events.id, body, header)
      : signature === null
        ? header('webhook-id')
        : undefined;
  return textIn(said) ?? `sha256-${createHash('sha256').update(raw).digest('hex')}`;
}

/**
 * Reads an event of a shop that has a form of its own, as the settings say.
 * @param receivedAt when it came, which counts where it does not say when it happened
 */
export function mapped(
  mapping: EventMapping,
  body: unknown,
  header: HeaderOf,
  receivedAt: number,
): Mapped {
  const type = textIn(at(mapping.type, body, header));
  if (type === undefined)
    return { is: 'unknown', problem: `It has no type${placeIn(mapping.type)}.` };
  const own = Object.hasOwn(mapping.types, type) ? mapping.types[type] : undefined;
  if (own === undefined)
    return {
      is: 'unknown',
      problem: `The settings do not say what "${type}" means: add it to "types", or to what is ignored there.`,
    };
  if (own === IGNORED) return { is: 'ignored', type };
  const value = (field: MappedField): unknown => {
    const path = mapping.fields[field];
    return path === undefined ? undefined : at(path, body, header);
  };
  const product = textIn(value('product'));
  const partly = value('partly');
  return {
    is: 'event',
    event: {
      type: own,
      timestamp: momentIn(value('at')) ?? new Date(receivedAt).toISOString(),
      data: withoutAbsent({
        purchase: textIn(value('purchase')),
        product:
          product !== undefined && Object.hasOwn(mapping.products, product)
            ? mapping.products[product]
            : product,
        email: textIn(value('email')),
        visitor: textIn(value('visitor')),
        from: momentIn(value('from')),
        until: momentIn(value('until')),
        partly: partly === undefined || partly === null ? undefined : isYes(partly),
        formerEmail: textIn(value('former-email')),
      }),
    },
  };
}

function at(place: Place, body: unknown, header: HeaderOf): unknown {
  if (typeof place !== 'string') return header(place.header);
  return typeof body === 'object' && body !== null
    ? (jsonpointer.get(body, place) as unknown)
    : undefined;
}

const placeIn = (place: Place): string =>
  typeof place === 'string' ? ` at ${place}` : ` in the header ${place.header}`;

const textIn = (value: unknown): string | undefined =>
  typeof value === 'number'
    ? String(value)
    : typeof value === 'string' && value.trim() !== ''
      ? value.trim()
      : undefined;

/** Seconds since 1970 have fewer digits than milliseconds, for thousands of years. */
const MOST_SECONDS = 100_000_000_000;

/** A moment as text (RFC 3339): shops have seconds or milliseconds since 1970, days, or text already. */
function momentIn(value: unknown): string | undefined {
  const text = textIn(value);
  if (text === undefined) return undefined;
  if (/^\d+(?:\.\d+)?$/.test(text)) {
    const number = Number(text);
    const ms = number < MOST_SECONDS ? number * 1000 : number;
    return ms < 8.64e15 ? new Date(ms).toISOString() : text;
  }
  return /^\d{4}-\d\d-\d\d$/.test(text) ? `${text}T00:00:00Z` : text.replace(' ', 'T');
}

const isYes = (value: unknown): boolean =>
  value === true || /^(?:yes|true|1)$/i.test(String(value));

const withoutAbsent = (fields: Record<string, unknown>): Record<string, unknown> =>
  Object.fromEntries(Object.entries(fields).filter(([, value]) => value !== undefined));
