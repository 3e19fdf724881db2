import { Router, type Request } from 'express';
import { Webhook, WebhookVerificationError } from 'standardwebhooks';
import type { Message } from '@kleidon/api';
import { model } from '@kleidon/core';
import type { ShopSettings } from '../settings/shops.ts';
import type { Buyer, ReceivedEvent } from '../store/ledger.ts';
import { draftOf, momentOf, preparedOf, type Context } from './context.ts';
import { Problem } from './problem.ts';
import { rawBodyOf } from './raw-body.ts';
import { registerCalls } from './register-calls.ts';
import { bodySchema, validated } from './validation.ts';

const USUAL_MOST = 100;
const MOST_REJECTED = 100;
const LONGEST_ID = 200;

type SaidEvent = Message<'ShopEvent'>;

/** What shops tell, and the purchases that follow from it. */
export function shopsRouter(context: Context): Router {
  const router = Router();
  const { ledger, sites } = context;
  const siteOf = ({ site }: { readonly site: string }): string => draftOf(context, site).site;
  const schema = bodySchema({ $ref: '#/components/schemas/ShopEvent' });

  registerCalls(router, {
    takeShopEvent: ({ path, body, request }) => {
      const shop = context.shops.find(({ name }) => name === path.shop);
      if (!shop) throw new Problem('no-such-shop', `There is no shop "${path.shop}".`);
      const id = signedId(shop, request);
      if (sites.summary(shop.site) === null)
        throw new Problem('no-such-site', `There is no site "${shop.site}" yet.`);
      const receivedAt = context.now().getTime();
      let event: SaidEvent;
      try {
        event = validated(schema, body) as SaidEvent;
        mustBeWhole(event);
      } catch (error) {
        if (!(error instanceof Problem)) throw error;
        // Kept, so that it can be seen what a shop tried to tell.
        ledger.reject(shop.site, {
          shop: shop.name,
          id,
          body: JSON.stringify(body),
          problem: error.message,
          receivedAt,
        });
        throw error;
      }
      if (event.type === 'buyer.erased') {
        ledger.erase(shop.site, buyerOf(event.data));
        return { id, isNew: true };
      }
      const isNew = ledger.add(shop.site, shop.name, readEvent(id, event), receivedAt);
      return { id, isNew };
    },

    getPurchases: ({ path, query }) => {
      const site = siteOf(path);
      const buyer = buyerOf(query);
      if (buyer.email === null && buyer.visitor === null)
        throw new Problem('wrong-request', 'Name a buyer with "email" or "visitor".');
      const isReleased = sites.liveNumber(site) !== null;
      const at = isReleased
        ? momentOf(context, preparedOf(context, site, 'live'), query.at)
        : context.now().getTime();
      return {
        at: iso(at),
        purchases: ledger.purchasesOf(site, buyer, at).map((one) => ({
          shop: one.shop,
          purchase: one.id,
          product: one.product,
          from: isoOrNull(one.from),
          until: isoOrNull(one.until),
          refunded: one.refunded,
          paused: one.paused,
          cancelled: one.isCancelled,
          email: one.email,
          visitor: one.visitor,
          events: one.events.map(told),
        })),
      };
    },

    getShopEvents: ({ path, query: { skip = 0, limit = USUAL_MOST } }) => {
      const site = siteOf(path);
      const { found, events } = ledger.events(site, skip, limit);
      return {
        found,
        events: events.map(told),
        rejected: ledger.rejected(site, MOST_REJECTED).map(({ receivedAt, ...one }) => ({
          ...one,
          receivedAt: iso(receivedAt),
        })),
      };
    },
  });

  return router;
}

/**
 * The id of an event that a shop signed with one of its secrets, and not long ago (Standard Webhooks 1.0).
 * Anything else is refused, in constant time.
 */
function signedId({ secrets, name }: ShopSettings, request: Request): string {
  const headers = Object.fromEntries(
    ['webhook-id', 'webhook-timestamp', 'webhook-signature'].map((field) => [
      field,
      request.get(field) ?? '',
    ]),
  );
  const raw = rawBodyOf(request);
  const isSigned = secrets.some((secret) => {
    try {
      new Webhook(secret).verify(raw, headers, { jsonParse: false });
      return true;
    } catch (error) {
      if (error instanceof WebhookVerificationError) return false;
      throw error;
    }
  });
  const id = headers['webhook-id']!;
  if (!isSigned)
    throw new Problem(
      'not-signed',
      `No secret of the shop "${name}" signed this event, or it was signed over 5 minutes ago.`,
    );
  if (id.length > LONGEST_ID)
    throw new Problem('wrong-request', `"webhook-id" is longer than ${LONGEST_ID} characters.`);
  return id;
}

/** What each type needs besides its form. */
function mustBeWhole({ type, timestamp, data }: SaidEvent): void {
  const isOfBuyer = type === 'buyer.moved' || type === 'buyer.erased';
  const needs: [is: boolean, what: string][] = [
    [isOfBuyer || data.purchase !== undefined, '"data.purchase" is missing: which purchase it is.'],
    [
      type !== 'purchase.made' || data.product !== undefined,
      '"data.product" is missing: what was bought.',
    ],
    [
      type !== 'purchase.made' || data.email !== undefined || data.visitor !== undefined,
      '"data.email" or "data.visitor" is missing: who bought.',
    ],
    // Without an end, a renewal would never run out.
    [
      type !== 'purchase.renewed' || data.until !== undefined,
      '"data.until" is missing: until when it is renewed.',
    ],
    [
      type !== 'purchase.changed' || data.product !== undefined,
      '"data.product" is missing: what it is now.',
    ],
    [
      type !== 'buyer.moved' || data.email !== undefined,
      '"data.email" is missing: the address from now on.',
    ],
    [
      type !== 'buyer.moved' || data.formerEmail !== undefined || data.visitor !== undefined,
      '"data.formerEmail" or "data.visitor" is missing: who moved.',
    ],
    [
      type !== 'buyer.erased' || data.email !== undefined || data.visitor !== undefined,
      '"data.email" or "data.visitor" is missing: who is to be forgotten.',
    ],
  ];
  for (const [name, text] of Object.entries({ timestamp, from: data.from, until: data.until }))
    needs.push([
      text === undefined || !Number.isNaN(Date.parse(text)),
      `"${name}" is no moment that there is.`,
    ]);
  const missing = needs.filter(([is]) => !is).map(([, what]) => what);
  if (missing.length > 0) throw new Problem('wrong-request', missing.join(' '));
}

function readEvent(id: string, { type, timestamp, data }: SaidEvent): model.ShopEvent {
  return {
    id,
    type: type as model.ShopEventType,
    at: Date.parse(timestamp),
    purchase: data.purchase ?? '',
    product: data.product ?? null,
    from: momentIn(data.from),
    until: momentIn(data.until),
    isPartly: data.partly ?? false,
    ...buyerOf(data),
    formerEmail: addressIn(data.formerEmail),
  };
}

const momentIn = (text: string | undefined): number | null =>
  text === undefined ? null : Date.parse(text);

const addressIn = (text: string | undefined): string | null =>
  text === undefined ? null : text.trim().toLowerCase();

const buyerOf = ({
  email,
  visitor,
}: {
  readonly email?: string | undefined;
  readonly visitor?: string | undefined;
}): Buyer => ({ email: addressIn(email), visitor: visitor ?? null });

const iso = (at: number): string => new Date(at).toISOString();
const isoOrNull = (at: number | null): string | null => (at === null ? null : iso(at));

/** An event as the API tells it; what it does not say is left out. */
function told(event: ReceivedEvent): Message<'ReceivedEvent'> {
  return {
    shop: event.shop,
    id: event.id,
    type: event.type,
    at: iso(event.at),
    receivedAt: iso(event.receivedAt),
    purchase: event.purchase || null,
    product: event.product,
    from: isoOrNull(event.from),
    until: isoOrNull(event.until),
    partly: event.isPartly,
    email: event.email,
    visitor: event.visitor,
  };
}
