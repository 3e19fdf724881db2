import type { Message } from '@kleidon/api';
import { formats, type model, purchases } from '@kleidon/core';
import type { ShopSettings } from '../settings/shops.ts';
import { mapped } from '../shops/mapping.ts';
import type { HeaderOf } from '../shops/signature.ts';
import type { Buyer } from '../store/buyer-purchases.ts';
import { Problem } from '../calls/problem.ts';
import { bodySchema, validated } from '../calls/validation.ts';

/** What a shop told: something that happened, a buyer who is to be forgotten, or what the settings ignore. */
export type ReadEvent =
  | { readonly is: 'event'; readonly event: model.ShopEvent }
  | { readonly is: 'erased'; readonly buyer: Buyer; readonly at: number }
  | { readonly is: 'ignored'; readonly type: string };

type SaidEvent = Message<'ShopEvent'>;

const LONGEST_ID = 200;
const schema = bodySchema({ $ref: '#/components/schemas/ShopEvent' });

/**
 * Reads what a shop told, by its settings.
 * @param at when it came, in milliseconds since 1970
 * @throws Problem `event-not-understood` that says what is missing, and in a shop with a form of its own, where it was looked for
 */
export function readShopEvent(
  { events: mapping }: ShopSettings,
  id: string,
  body: unknown,
  header: HeaderOf,
  at: number,
): ReadEvent {
  if (id.length > LONGEST_ID)
    throw new Problem('event-not-understood', `Its id is longer than ${LONGEST_ID} characters.`);
  const own = mapping === null ? null : mapped(mapping, body, header, at);
  if (own?.is === 'unknown') throw new Problem('event-not-understood', own.problem);
  if (own?.is === 'ignored') return own;
  try {
    const event = validated(schema, own ? own.event : body) as SaidEvent;
    mustBeWhole(event);
    return event.type === 'buyer.erased'
      ? { is: 'erased', buyer: buyerOf(event.data), at: momentIn(event.timestamp)! }
      : { is: 'event', event: eventOf(id, event) };
  } catch (error) {
    if (!(error instanceof Problem)) throw error;
    const places = Object.entries(mapping?.fields ?? {}).map(
      ([field, place]) => `"${field}" from ${place}`,
    );
    const read = places.length === 0 ? '' : ` By the settings, it was read ${places.join(', ')}.`;
    throw new Problem('event-not-understood', error.message + read, error.more);
  }
}

/** What each type needs besides its form. */
function mustBeWhole({ type, timestamp, data }: SaidEvent): void {
  const needs: [is: boolean, what: string][] = [
    [isOfBuyer(type) || isSaid(data.purchase), '"data.purchase" is missing: which purchase it is.'],
    [
      type !== 'purchase.made' || isSaid(data.product),
      '"data.product" is missing: what was bought.',
    ],
    [
      type !== 'purchase.made' || isSaid(data.email) || isSaid(data.visitor),
      '"data.email" or "data.visitor" is missing: who bought.',
    ],
    // Without an end, a renewal would never run out.
    [
      type !== 'purchase.renewed' || isSaid(data.until),
      '"data.until" is missing: until when it is renewed.',
    ],
    [
      type !== 'purchase.changed' || isSaid(data.product),
      '"data.product" is missing: what it is now.',
    ],
    [
      type !== 'buyer.moved' || isSaid(data.email),
      '"data.email" is missing: the address from now on.',
    ],
    [
      type !== 'buyer.moved' || isSaid(data.formerEmail) || isSaid(data.visitor),
      '"data.formerEmail" or "data.visitor" is missing: who moved.',
    ],
    [
      type !== 'buyer.erased' || isSaid(data.email) || isSaid(data.visitor),
      '"data.email" or "data.visitor" is missing: who is to be forgotten.',
    ],
  ];
  const moments = { timestamp, 'data.from': data.from, 'data.until': data.until };
  for (const [name, text] of Object.entries(moments))
    needs.push([
      text === undefined || momentIn(text) !== null,
      `"${name}" is "${text}": there is no such moment. Write it as 2027-03-01T09:00:00Z.`,
    ]);
  const missing = needs.filter(([is]) => !is).map(([, what]) => what);
  if (missing.length > 0) throw new Problem('event-not-understood', missing.join(' '));
}

const isSaid = (text: string | undefined): text is string =>
  text !== undefined && text.trim() !== '';

/** Whether an event is about a buyer, and no purchase of theirs. */
const isOfBuyer = (type: string): boolean => type.startsWith('buyer.');

const eventOf = (id: string, { type, timestamp, data }: SaidEvent): model.ShopEvent => ({
  id,
  type: type,
  at: momentIn(timestamp)!,
  purchase: isOfBuyer(type) ? '' : (data.purchase ?? ''),
  product: data.product ?? null,
  from: momentIn(data.from),
  until: momentIn(data.until),
  isPartly: data.partly ?? false,
  ...buyerOf(data),
  formerEmail: isOfBuyer(type) ? addressIn(data.formerEmail, 'formerEmail') : null,
});

const momentIn = (text: string | undefined): number | null =>
  text === undefined ? null : formats.readInstant(text, 'UTC');

const NAME_PROBLEMS: Readonly<Record<purchases.NameProblem, string>> = {
  empty: 'is empty',
  'control-character': 'has a control character',
  'surrounding-space': 'has a space or another blank character around it',
  'too-long': 'has more than 320 characters',
};

/** The name in a field; null where nothing is said. Throws `wrong-request` where it is none. */
function nameIn(
  field: string,
  text: string | undefined,
  read: (text: string) => purchases.ReadName,
): string | null {
  if (text === undefined || text === '') return null;
  const name = read(text);
  if (name.ok) return name.name;
  if (name.problem === 'empty') return null;
  throw new Problem('wrong-request', `"${field}" ${NAME_PROBLEMS[name.problem]}.`);
}

/** An e-mail address as buyers are known by it. */
export const addressIn = (text: string | undefined, field = 'email'): string | null =>
  nameIn(field, text, purchases.readEmail);

/** A buyer as a request names them. */
export const buyerOf = ({
  email,
  visitor,
}: {
  readonly email?: string | undefined;
  readonly visitor?: string | undefined;
}): Buyer => ({
  email: addressIn(email),
  visitor: nameIn('visitor', visitor, purchases.readVisitorId),
});
