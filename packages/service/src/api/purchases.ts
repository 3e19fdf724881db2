import { randomUUID } from 'node:crypto';
import { Router } from 'express';
import { formats, model, purchases, wording } from '@kleidon/core';
import { BY_HAND } from '../settings/shops.ts';
import { standingPurchases, type StandingPurchase } from '../shops/all-purchases.ts';
import { eventsFor, reconcile } from '../shops/reconcile.ts';
import { summaries } from '../shops/summary.ts';
import type { Buyer } from '../store/buyer-purchases.ts';
import type { NewEvent } from '../store/ledger.ts';
import { draftOf } from '../analysis/source.ts';
import { Problem } from '../calls/problem.ts';
import type { Context } from './context.ts';
import { registerCalls, SENT } from './register-calls.ts';
import { sendPurchases } from './send-purchases.ts';
import { addressIn, buyerOf } from './shop-event.ts';
import {
  graceBy,
  iso,
  toldEvent,
  toldListed,
  toldPurchase,
  toldStanding,
} from './shop-messages.ts';

const USUAL_MOST = 100;
/** Purchases of a list that are told; how many there are is told besides. */
const MOST_TOLD = 500;
/** Buyers of one purchase, under each name by which they were ever known. */
const MOST_BUYERS = 20;

/** Who bought what: looked up, listed, counted, granted by hand, taken over from lists, and forgotten. */
export function purchasesRouter(context: Context): Router {
  const router = Router();
  const { ledger } = context;
  const summaryOf = summaries(ledger, () => context.now().getTime());
  const siteOf = ({ site }: { readonly site: string }): string => draftOf(context, site).site;
  const now = (): number => context.now().getTime();

  const about = async (site: string, at: string | undefined) => {
    const facts = await context.facts(site);
    const zone = facts?.timeZone ?? 'UTC';
    const read = at === undefined ? now() : formats.readInstant(at, zone);
    if (read === null)
      throw new Problem('wrong-request', `"at" is "${at}"; write a date such as 2027-03-01.`);
    return { products: facts?.products ?? null, zone, at: read, grace: graceBy(facts) };
  };

  /** A change by hand, as an event of its own. */
  const byHand = (event: Partial<NewEvent> & Pick<NewEvent, 'type'>): NewEvent => ({
    id: `by-hand-${randomUUID()}`,
    at: now(),
    ...model.UNSAID,
    receivedAt: now(),
    ...event,
  });

  registerCalls(router, {
    getPurchases: async ({ path, query }) => {
      const site = siteOf(path);
      const { at, grace } = await about(site, query.at);
      const buyer = buyerOf(query);
      const isNamed = buyer.email !== null || buyer.visitor !== null;
      if (!isNamed && query.order === undefined)
        throw new Problem('wrong-request', 'Name a buyer with "email", "visitor" or "order".');
      const buyers = [
        ...(isNamed ? [buyer] : []),
        ...(query.order === undefined ? [] : ledger.buyersOf(site, query.order)),
      ].slice(0, MOST_BUYERS);
      const found = new Map(
        buyers
          .flatMap((one) => ledger.purchasesOf(site, one, at))
          .map((one) => [JSON.stringify([one.shop, one.id]), one]),
      );
      return {
        at: iso(at),
        purchases: [...found.values()].map((one) => toldPurchase(one, at, grace)),
        others: otherNames([...found.values()], buyer),
      };
    },

    grantAccess: async ({ path, body }) => {
      const site = siteOf(path);
      const { products, zone, at, grace } = await about(site, undefined);
      const { email, visitor } = mustBeNamed(buyerOf(body));
      const { product, note } = body;
      if (products && !Object.hasOwn(products, product))
        throw new Problem('no-such-product', `The site has no product "${product}".`);
      const [from, until] = (['from', 'until'] as const).map((field) => {
        const text = body[field];
        const moment = text === undefined ? null : formats.readInstant(text, zone);
        if (text !== undefined && moment === null)
          throw new Problem(
            'wrong-request',
            `"${field}" is "${text}"; write a date such as 2027-03-01.`,
          );
        return moment;
      }) as [number | null, number | null];
      if (until !== null && until <= (from ?? at))
        throw new Problem('wrong-request', `"until" is before it begins.`);
      const purchase = `grant-${randomUUID().slice(0, 8)}`;
      const told = { purchase, product, email, visitor, from, until, note };
      ledger.add(site, BY_HAND, byHand({ type: 'purchase.made', ...told }));
      return toldPurchase(grantOf(site, purchase), now(), grace);
    },

    endGrant: async ({ path, query: { note } }) => {
      const site = siteOf(path);
      const { product } = grantOf(site, path.purchase);
      // It ends now, and not after the days of grace.
      const until = now() - (await about(site, undefined)).grace(product);
      const told = { purchase: path.purchase, until, note };
      ledger.add(site, BY_HAND, byHand({ type: 'purchase.cancelled', ...told }));
      return undefined;
    },

    listPurchases: async ({ path, query, request, response }) => {
      const site = siteOf(path);
      const { at, grace } = await about(site, query.at);
      const { product, state, limit = USUAL_MOST, after } = query;
      const isAsked = (one: StandingPurchase): boolean =>
        (product === undefined || one.product === product) &&
        (state === undefined || purchases.stateOf(one, grace(one.product), at) === state);
      const start = after === undefined ? undefined : keyIn(after);
      const all = standingPurchases(ledger, site, at, start);
      if (request.accepts(['application/json', 'text/csv']) === 'text/csv') {
        await sendPurchases(response, site, all, isAsked);
        return SENT;
      }
      const found: StandingPurchase[] = [];
      for await (const one of all) {
        if (!isAsked(one)) continue;
        found.push(one);
        if (found.length > limit) break;
      }
      const told = found.slice(0, limit);
      const last = told.at(-1);
      return {
        at: iso(at),
        purchases: told.map((one) => toldStanding(one, at, grace)),
        next: found.length > limit && last ? `${last.shop}/${last.id}` : null,
      };
    },

    getPurchaseSummary: async ({ path, query }) => {
      const site = siteOf(path);
      const { products: sold, at: moment } = await about(site, query.at);
      const { at, products, moments, withoutPurchase } = await summaryOf(
        sold,
        site,
        query.at === undefined ? null : moment,
      );
      const own = sold ?? {};
      const none = { inForce: 0, inGrace: 0, notRenewed: 0, paused: 0 };
      const unsold = Object.keys(own)
        .filter((name) => products.every(({ product }) => product !== name))
        .map((product) => ({
          product,
          now: { ...none, refunded: 0, lapsed: 0, upcoming: 0 },
          inForceAt: moments.inForceAt.map(() => 0),
          ending: moments.ending.slice(1).map(() => 0),
        }));
      return {
        at: iso(at),
        shops: context.shops.filter((shop) => shop.site === site).map(({ name }) => name),
        products: [...products, ...unsold].map(({ now: counts, product, inForceAt, ending }) => ({
          product,
          title: own[product]?.title ?? null,
          ...counts,
          inForceAt: [...inForceAt],
          ending: [...ending],
        })),
        months: moments.inForceAt.map(iso),
        endings: moments.ending.map(iso),
        pending: {
          products: ledger.products(site).filter(({ product }) => !Object.hasOwn(own, product)),
          withoutPurchase: {
            found: withoutPurchase.found,
            first: withoutPurchase.first.map(toldEvent),
          },
        },
        rejected: context.rejectedEvents.count(site),
      };
    },

    importPurchases: async ({ path, query: { shop, dryRun }, body }) => {
      const site = siteOf(path);
      const { zone, at } = await about(site, undefined);
      if (shop === BY_HAND)
        throw new Problem('wrong-request', `"${BY_HAND}" is no shop: name whose list it is.`);
      const { rows, refused, unread } = listIn(body, zone);
      const { same, differing, missingHere, missingThere } = await reconcile(
        ledger,
        site,
        shop,
        rows,
        at,
      );
      const isDry = dryRun === 'yes';
      if (!isDry)
        ledger.addAll(
          site,
          shop,
          missingHere.flatMap((row) => eventsFor(row, at)),
        );
      return {
        same,
        added: isDry ? 0 : missingHere.length,
        differing: some(differing, ({ purchase, fields }) => ({ purchase, fields: [...fields] })),
        missingHere: some(missingHere, toldListed),
        missingThere: some(missingThere, toldListed),
        refused: refused.map(({ line, purchase, problem }) => ({
          line,
          purchase,
          message: wording.describeRowProblem(problem),
        })),
        unread,
      };
    },

    linkBuyer: ({ path, body }) => {
      addLink(siteOf(path), 'buyer.linked', body);
      return undefined;
    },

    unlinkBuyer: ({ path, body }) => {
      addLink(siteOf(path), 'buyer.unlinked', body);
      return undefined;
    },

    eraseBuyer: ({ path, query }) => {
      const site = siteOf(path);
      const buyer = mustBeNamed(buyerOf(query));
      const others = otherNames(ledger.purchasesOf(site, buyer, now()), buyer);
      const { id, at, receivedAt } = byHand({ type: 'buyer.erased' });
      const events = ledger.erase(site, buyer, { shop: BY_HAND, id, at, receivedAt });
      return { events: events ?? 0, others };
    },
  });

  return router;

  function addLink(
    site: string,
    type: 'buyer.linked' | 'buyer.unlinked',
    { email, other, note }: { email: string; other: string; note: string },
  ): void {
    const [one, second] = [addressIn(email), addressIn(other, 'other')];
    if (one === null || second === null)
      throw new Problem('wrong-request', 'Name two addresses with "email" and "other".');
    if (one === second)
      throw new Problem('wrong-request', '"email" and "other" are the same address.');
    ledger.add(site, BY_HAND, byHand({ type, email: one, formerEmail: second, note }));
  }

  /** Access that was granted by hand. Throws `no-such-purchase`. */
  function grantOf(site: string, purchase: string) {
    const events = ledger.eventsOfPurchase(site, BY_HAND, purchase);
    const [grant] = purchases.purchasesAt(events, now());
    if (!grant) throw new Problem('no-such-purchase', `Nothing was granted as "${purchase}".`);
    return { ...grant, shop: BY_HAND, events };
  }
}

/** The other names that hold some of a buyer's purchases: whoever erases one name decides about these too. */
function otherNames(
  held: readonly purchases.LedgerPurchase[],
  { email, visitor }: Buyer,
): { email: string | null; visitor: string | null }[] {
  const known = (names: readonly string[]): string[] =>
    names.filter((name) => purchases.knownName(name) !== null);
  const emails = new Set(held.flatMap(({ holders }) => known(holders.emails)));
  const visitors = new Set(held.flatMap(({ holders }) => known(holders.visitors)));
  return [
    ...[...emails].filter((one) => one !== email).map((one) => ({ email: one, visitor: null })),
    ...[...visitors].filter((one) => one !== visitor).map((one) => ({ email: null, visitor: one })),
  ];
}

function mustBeNamed(buyer: Buyer): Buyer {
  if (buyer.email === null && buyer.visitor === null)
    throw new Problem('wrong-request', 'Name a buyer with "email" or "visitor".');
  return buyer;
}

/** Where a list goes on: the name of a shop, which has no slash, and a purchase. */
function keyIn(after: string): { shop: string; purchase: string } {
  const slash = after.indexOf('/');
  if (slash === -1)
    throw new Problem('wrong-request', '"after" is the "next" of the answer before.');
  return { shop: after.slice(0, slash), purchase: after.slice(slash + 1) };
}

/** The purchases of a list. Throws `wrong-request` where it is no CSV. */
function listIn(text: string, zone: string): ReturnType<typeof purchases.readPurchases> {
  try {
    return purchases.readPurchases(text, zone);
  } catch (error) {
    if (!(error instanceof formats.CsvSyntaxError)) throw error;
    const { message, remedy } = wording.describeCsvProblem(error.problem);
    throw new Problem(
      'wrong-request',
      `Line ${error.line}: ${message}${remedy ? ` ${remedy}` : ''}`,
    );
  }
}

const some = <T, U>(all: readonly T[], tell: (one: T) => U): { found: number; first: U[] } => ({
  found: all.length,
  first: all.slice(0, MOST_TOLD).map(tell),
});
