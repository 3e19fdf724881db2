import { isUtf8 } from 'node:buffer';
import { Router } from 'express';
import type { Logger } from 'pino';
import type { Message } from '@kleidon/api';
import type { ShopSettings } from '../settings/shops.ts';
import { idOf } from '../shops/mapping.ts';
import { signatureProblem, type HeaderOf, type SignatureProblem } from '../shops/signature.ts';
import { purchasesIn } from '../store/buyer-purchases.ts';
import type { KeptBody, NewEvent } from '../store/ledger.ts';
import type { RejectedEvent } from '../store/rejected-events.ts';
import { draftOf } from '../analysis/source.ts';
import type { SiteFacts } from '../analysis/tasks.ts';
import { plainJson } from '../calls/body.ts';
import { Problem } from '../calls/problem.ts';
import type { Context } from './context.ts';
import { registerCalls } from './register-calls.ts';
import { readShopEvent, type ReadEvent } from './shop-event.ts';
import { graceBy, iso, toldEvent, toldPurchase, toldRejected } from './shop-messages.ts';

const USUAL_MOST = 100;
const MOST_REJECTED = 100;
/** Events of a product that are read anew at once. */
const MOST_REREAD = 10_000;

/** What shops tell: it is taken, listed, tried out, and read again where it was not understood. */
export function shopsRouter(context: Context, log: Pick<Logger, 'warn'>): Router {
  const router = Router();
  const refused = refusals(log);
  const { ledger, rejectedEvents, sites } = context;
  const siteOf = ({ site }: { readonly site: string }): string => draftOf(context, site).site;
  const now = (): number => context.now().getTime();

  const shopCalled = (name: string, site?: string): ShopSettings => {
    const shop = context.shops.find((one) => one.name === name);
    if (shop && (site === undefined || shop.site === site)) return shop;
    throw new Problem('no-such-shop', `There is no shop "${name}"${site ? ` of "${site}"` : ''}.`);
  };

  /** Keeps what a shop told. @returns whether that is new */
  const keep = (shop: ShopSettings, id: string, read: ReadEvent, received: Received): boolean => {
    if (read.is === 'event') {
      // What the settings have read is kept as it came: they may turn out wrong.
      const body = shop.events === null ? undefined : received.body;
      const event: NewEvent = { ...read.event, receivedAt: received.receivedAt, body };
      return ledger.add(shop.site, shop.name, event);
    }
    if (read.is === 'ignored') {
      rejectedEvents.drop(shop.site, shop.name, id);
      return false;
    }
    const event = { shop: shop.name, id, at: read.at, receivedAt: received.receivedAt };
    return ledger.erase(shop.site, read.buyer, event) !== null;
  };

  registerCalls(router, {
    takeShopEvent: ({ path, request }) => {
      const shop = shopCalled(path.shop);
      const raw = request.body as Buffer;
      const header: HeaderOf = (name) => request.get(name);
      const receivedAt = now();
      const problem = signatureProblem(shop, raw, header, receivedAt);
      if (problem !== null) {
        refused.add(shop.name, problem, receivedAt);
        throw new Problem(
          'not-signed',
          `No secret of the shop "${shop.name}" signed this event in the last 5 minutes.`,
        );
      }
      if (sites.summary(shop.site) === null)
        throw new Problem('no-such-site', `There is no site "${shop.site}" yet.`);
      const body = signedJson(raw);
      const id = idOf(shop, body, raw, header);
      let read: ReadEvent;
      try {
        read = readShopEvent(shop, id, body, header, receivedAt);
      } catch (error) {
        if (!(error instanceof Problem)) throw error;
        // Kept, so that it can be seen what a shop tried to tell.
        rejectedEvents.keep(shop.site, {
          shop: shop.name,
          id: id.slice(0, LONGEST_KEPT_ID),
          body: bodyToKeep(shop, body, header),
          problem: error.message,
          receivedAt,
        });
        throw error;
      }
      if (read.is === 'ignored') return { id, result: 'ignored' };
      const isNew = keep(shop, id, read, { receivedAt, body: bodyToKeep(shop, body, header) });
      return { id, result: isNew ? 'new' : 'known' };
    },

    getShopEvents: ({ path, query: { skip = 0, limit = USUAL_MOST } }) => {
      const site = siteOf(path);
      const { found, events } = ledger.events(site, skip, limit);
      return {
        found,
        events: events.map(toldEvent),
        rejected: rejectedEvents.list(site, MOST_REJECTED).map(toldRejected),
        refused: refused
          .of(context.shops.filter((shop) => shop.site === site).map(({ name }) => name))
          .map(({ lastAt, ...one }) => ({ ...one, lastAt: iso(lastAt) })),
      };
    },

    dropShopEvent: ({ path, query: { shop, id } }) => {
      if (rejectedEvents.drop(siteOf(path), shop, id)) return undefined;
      throw new Problem('no-such-event', `No event "${id}" of "${shop}" was rejected.`);
    },

    applyShopEvents: async ({ path, body: { shop: name, id } }) => {
      const site = siteOf(path);
      const known = (await context.facts(site))?.products ?? {};
      return ledger.together(() => {
        const { applied, rejected } = applyRejected(site, name ?? null, id ?? null);
        const reread = id === undefined ? rereadUnknown(site, name, known) : 0;
        return { applied, reread, rejected: rejected.map(toldRejected) };
      });
    },

    tryShopEvent: async ({ path, body: { shop: name, body: text, headers } }) => {
      const site = siteOf(path);
      const shop = shopCalled(name, site);
      return tried(
        shop,
        text,
        headerIn(headers?.map(({ name: one, value }) => [one, value]) ?? []),
        await context.facts(site),
      );
    },
  });

  return router;

  /** Reads what was rejected by the settings as they are now. */
  function applyRejected(
    site: string,
    name: string | null,
    id: string | null,
  ): { applied: number; rejected: RejectedEvent[] } {
    const rejected: RejectedEvent[] = [];
    let applied = 0;
    for (const one of rejectedEvents.find(site, name, id)) {
      const shop = context.shops.find((each) => each.name === one.shop && each.site === site);
      const read = shop ? readAgain(shop, one) : 'Its shop is not in the settings any more.';
      if (typeof read === 'string') rejected.push({ ...one, problem: read });
      else {
        keep(shop!, one.id, read, one);
        applied++;
      }
    }
    for (const one of rejected) rejectedEvents.keep(site, one);
    return { applied, rejected };
  }

  /** What an event that was rejected is now; or why it still is none. */
  function readAgain(shop: ShopSettings, { id, body, receivedAt }: KeptBody): ReadEvent | string {
    const kept = bodyKept(body);
    try {
      return readShopEvent(shop, id, kept.body, kept.header, receivedAt);
    } catch (error) {
      if (error instanceof Problem) return error.message;
      throw error;
    }
  }

  /** Reads anew what was told of products that the site file does not have. @returns how many are others now */
  function rereadUnknown(site: string, name: string | undefined, known: object): number {
    let reread = 0;
    for (const { product } of ledger
      .products(site)
      .filter((one) => !Object.hasOwn(known, one.product)))
      for (const one of ledger.bodiesOf(site, product, MOST_REREAD)) {
        const shop = context.shops.find((each) => each.name === one.shop && each.site === site);
        if (!shop?.events || (name !== undefined && name !== shop.name)) continue;
        const read = readAgain(shop, one);
        if (typeof read === 'string' || read.is !== 'event' || read.event.product === product)
          continue;
        ledger.reread(site, shop.name, read.event);
        reread++;
      }
    return reread;
  }

  /** What an event would become, and its purchase with it. Nothing is kept. */
  function tried(
    shop: ShopSettings,
    text: string,
    header: HeaderOf,
    facts: SiteFacts | null,
  ): {
    result: 'new' | 'known' | 'ignored' | 'rejected' | 'erases';
    event: Message<'ReceivedEvent'> | null;
    problem: string | null;
    warnings: string[];
    purchase: Message<'LedgerPurchase'> | null;
  } {
    const nothing = { event: null, problem: null, warnings: [], purchase: null };
    const at = now();
    try {
      const body = jsonIn(text);
      const id = idOf(shop, body, Buffer.from(text), header);
      const read = readShopEvent(shop, id, body, header, at);
      if (read.is === 'ignored') return { ...nothing, result: 'ignored' };
      if (read.is === 'erased') return { ...nothing, result: 'erases' };
      const { event } = read;
      const received = { ...event, shop: shop.name, receivedAt: at, note: null };
      const before =
        event.purchase === ''
          ? ledger.eventsOf(shop.site, { email: event.formerEmail, visitor: event.visitor })
          : ledger.eventsOfPurchase(shop.site, shop.name, event.purchase);
      const isKnown = before.some((one) => one.shop === shop.name && one.id === id);
      const buyer = [...before, received].find(
        (one) => one.type === 'purchase.made' && one.purchase === event.purchase,
      );
      const grace = graceBy(facts);
      const [purchase] =
        buyer && event.purchase !== ''
          ? purchasesIn(isKnown ? before : [...before, received], buyer, Math.max(at, event.at))
          : [];
      const isThere =
        event.product === null || (facts !== null && Object.hasOwn(facts.products, event.product));
      return {
        result: isKnown ? 'known' : 'new',
        event: toldEvent(received),
        problem: null,
        warnings: [
          ...(isThere
            ? []
            : [
                `The live site file has no product "${event.product}": it counts once there is one.`,
              ]),
          ...(event.purchase !== '' && !buyer
            ? [`Nobody has told yet that "${event.purchase}" was bought: it counts from then on.`]
            : []),
          ...(event.at > at ? ['It happens in time to come, and counts from then on.'] : []),
        ],
        purchase: purchase ? toldPurchase(purchase, at, grace) : null,
      };
    } catch (error) {
      if (error instanceof Problem)
        return { ...nothing, result: 'rejected', problem: error.message };
      throw error;
    }
  }
}

interface Received {
  readonly receivedAt: number;
  readonly body: string;
}

const LONGEST_KEPT_ID = 250;

/** Events that were refused since the service started, because of one problem with their signatures. */
interface RefusedEvents {
  readonly shop: string;
  readonly reason: SignatureProblem;
  count: number;
  lastAt: number;
}

/** A wrong secret refuses every event: one line of the log for each shop and reason in this time. */
const LOG_INTERVAL = 60_000;

/** Counts refused events, and logs why: the answer to whoever has no secret says nothing of it. */
function refusals(log: Pick<Logger, 'warn'>) {
  const all = new Map<string, RefusedEvents>();
  return {
    add(shop: string, reason: SignatureProblem, now: number): void {
      const key = `${shop} ${reason}`;
      const before = all.get(key);
      if (!before || now - before.lastAt >= LOG_INTERVAL)
        log.warn({ shop, reason, refused: (before?.count ?? 0) + 1 }, 'shop event refused');
      all.set(key, { shop, reason, count: (before?.count ?? 0) + 1, lastAt: now });
    },
    of: (shops: readonly string[]): RefusedEvents[] =>
      [...all.values()].filter(({ shop }) => shops.includes(shop)),
  };
}

/** What came, with the header that the settings read the type of an event from. */
function bodyToKeep({ events }: ShopSettings, body: unknown, header: HeaderOf): string {
  const type = events?.type;
  if (typeof type !== 'object') return JSON.stringify(body);
  return JSON.stringify({ [HEADERS]: { [type.header.toLowerCase()]: header(type.header) }, body });
}
const HEADERS = 'kleidon-headers';

function bodyKept(text: string): { body: unknown; header: HeaderOf } {
  const kept = JSON.parse(text) as { [HEADERS]?: unknown; body?: unknown } | null;
  const headers = kept?.[HEADERS];
  return typeof headers === 'object' && headers !== null
    ? { body: kept!.body, header: headerIn(Object.entries(headers as Record<string, string>)) }
    : { body: kept, header: () => undefined };
}

/** Headers by their names, whose case does not matter (RFC 9110, 5.1). */
function headerIn(headers: readonly (readonly [name: string, value: string])[]): HeaderOf {
  const by = new Map(headers.map(([name, value]) => [name.toLowerCase(), value]));
  return (name) => by.get(name.toLowerCase());
}

function signedJson(raw: Buffer): unknown {
  try {
    // Invalid UTF-8 could turn one address into another.
    if (!isUtf8(raw)) throw new Error('it is not in UTF-8');
    return plainJson(JSON.parse(raw.toString('utf8')));
  } catch (error) {
    if (error instanceof Problem) throw error;
    throw new Problem('wrong-request', `The body is not JSON: ${(error as Error).message}.`);
  }
}

function jsonIn(text: string): unknown {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (error) {
    throw new Problem('event-not-understood', `This is not JSON: ${(error as Error).message}.`);
  }
  return plainJson(json);
}
