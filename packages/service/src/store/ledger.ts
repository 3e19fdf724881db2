import type { model } from '@kleidon/core';
import {
  purchasesIn,
  type Buyer,
  type KnownPurchase,
  type ReceivedEvent,
} from './buyer-purchases.ts';
import { buyerEvents, buyersIn } from './buyer-events.ts';
import type { Db } from './database.ts';
import { columnsOf, eventIn, type Row } from './event-row.ts';

/** An event that is to be kept. */
export interface NewEvent extends model.ShopEvent {
  readonly receivedAt: number;
  readonly note?: string | undefined;
  /** What came, where it was read by the settings of the shop: to be read anew when they change. */
  readonly body?: string | undefined;
}

/** What came, and was read by the settings of its shop. */
export interface KeptBody {
  readonly shop: string;
  readonly id: string;
  readonly body: string;
  readonly receivedAt: number;
}

/** What shops told, and the purchases that follow from it. */
export interface LedgerStore {
  /** Keeps an event. @returns whether it is new; one that is known changes nothing */
  add(site: string, shop: string, event: NewEvent): boolean;
  /** Keeps several, all or none. */
  addAll(site: string, shop: string, events: readonly NewEvent[]): void;
  /** Puts what an event was read as in place of what it was read as before. */
  reread(site: string, shop: string, event: model.ShopEvent): void;
  /** Forgets who a buyer is. What they bought is kept for counting. @returns how many events told of them */
  erase(site: string, buyer: Buyer): number;
  /** How often what is known of a site has changed since the service started. */
  changes(site: string): number;
  /** What was told of a buyer, under each address that leads to theirs. */
  eventsOf(site: string, buyer: Buyer): ReceivedEvent[];
  /** The purchases of a buyer, as they stand at a moment in milliseconds since 1970. */
  purchasesOf(site: string, buyer: Buyer, at: number): KnownPurchase[];
  eventsOfPurchase(site: string, shop: string, purchase: string): ReceivedEvent[];
  /** The addresses and ids by which the buyer of a purchase was ever known. */
  buyersOf(site: string, purchase: string): Buyer[];
  /** The last events of a site, the newest first. */
  events(site: string, skip: number, limit: number): { found: number; events: ReceivedEvent[] };
  /** The products that were told of, and how often. */
  products(site: string): { product: string; count: number }[];
  /** What came of a product in the words of the shop, to be read anew. */
  bodiesOf(site: string, product: string, limit: number): KeptBody[];
  /** Does some work as one: all of it is on the disk, or none. */
  together<T>(work: () => T): T;
  /** What was told of the next purchases of a site, in the order of shops and purchases. */
  nextPurchases(site: string, after: PurchaseKey, limit: number): ReceivedEvent[];
  /** The moves of buyers to other addresses, which belong to no purchase. */
  moves(site: string): ReceivedEvent[];
}

/** Where a purchase stands among all of a site. */
export interface PurchaseKey {
  readonly shop: string;
  readonly purchase: string;
}

/** The statements on what shops tell. */
export function ledgerStore(db: Db): LedgerStore {
  const add = db.prepare(
    `insert into shop_event (site_id, shop, id, type, at, purchase, product, valid_from, valid_until,
       is_partly, email, visitor, former_email, received_at, note, body)
     values (@site, @shop, @id, @type, @at, @purchase, @product, @from, @until,
       @isPartly, @email, @visitor, @formerEmail, @receivedAt, @note, @body) on conflict do nothing`,
  );
  const reread = db.prepare(
    `update shop_event set type = @type, at = @at, purchase = @purchase, product = @product, valid_from = @from,
       valid_until = @until, is_partly = @isPartly, email = @email, visitor = @visitor, former_email = @formerEmail
     where shop = @shop and id = @id and body is not null`,
  );
  const understood = db.prepare('delete from rejected_event where shop = ? and id = ?');
  const ofPurchase = db
    .prepare<[string, string, string], Row>(
      `select ${columnsOf('shop_event')} from shop_event where site_id = ? and shop = ? and purchase = ?`,
    )
    .raw();
  const byId = db
    .prepare<[string, string, string], Row>(
      `select ${columnsOf('shop_event')} from shop_event indexed by shop_event_of_id
       where site_id = ? and shop = ? and id = ?`,
    )
    .raw();
  const erase = db.prepare(
    `update shop_event set email = null, visitor = null, former_email = null, note = null, body = null
     where shop = ? and id = ?`,
  );
  // A body may name whom it is about anywhere.
  const forgetRejected = db.prepare<[string, string, string]>(
    `delete from rejected_event where site_id = ? and
       (instr(lower(body), lower(?)) > 0 or instr(lower(problem), lower(?)) > 0)`,
  );
  const events = db
    .prepare<[string, number, number], Row>(
      `select ${columnsOf('shop_event')} from shop_event indexed by shop_event_received
       where site_id = ? order by received_at desc limit ? offset ?`,
    )
    .raw();
  const count = db
    .prepare<[string], number>('select count(*) from shop_event where site_id = ?')
    .pluck();
  const products = db.prepare<[string], { product: string; count: number }>(
    `select product, count(*) as count from shop_event
     where site_id = ? and product is not null group by product order by product`,
  );
  const bodiesOf = db.prepare<[string, string, number], KeptBody>(
    `select shop, id, body, received_at as receivedAt from shop_event
     where site_id = ? and product = ? and body is not null limit ?`,
  );
  const shops = db
    .prepare<{ site: string }, string>(
      `with recursive found (shop) as (
         select min(shop) from shop_event where site_id = @site
         union all
         select (select min(shop) from shop_event where site_id = @site and shop > found.shop)
         from found where found.shop is not null
       ) select shop from found where shop is not null`,
    )
    .pluck();
  const next = db
    .prepare<[string, string, string, number], Row>(
      `select ${columnsOf('shop_event')} from shop_event
       where site_id = ? and (shop, purchase) > (?, ?) and purchase > '' order by shop, purchase limit ?`,
    )
    .raw();
  const changed = new Map<string, number>();
  const note = (site: string): void => void changed.set(site, (changed.get(site) ?? 0) + 1);

  const together: LedgerStore['together'] = (work) => {
    try {
      return db.transaction(work)();
    } catch (error) {
      // Whatever was looked up meanwhile is not so.
      for (const site of changed.keys()) note(site);
      throw error;
    }
  };

  const buyers = buyerEvents(db, (site) => changed.get(site) ?? 0);
  const insert = (site: string, shop: string, event: NewEvent): boolean => {
    const { changes } = add.run({
      note: null,
      body: null,
      ...event,
      site,
      shop,
      isPartly: Number(event.isPartly),
    });
    understood.run(shop, event.id);
    return changes > 0;
  };
  /** Everyone who is named in an event, or in another of its purchase. */
  const namedWith = (site: string, shop: string, event: model.ShopEvent): Buyer[] => [
    ...buyersIn(event),
    ...(event.purchase === ''
      ? []
      : ofPurchase.all(site, shop, event.purchase).map(eventIn).flatMap(buyersIn)),
  ];
  const addAll = (site: string, shop: string, events: readonly NewEvent[]): number =>
    together(() => {
      const added = events.filter((event) => insert(site, shop, event));
      if (added.length === 0) return 0;
      note(site);
      buyers.keep(
        site,
        added.flatMap((event) => namedWith(site, shop, event)),
      );
      return added.length;
    });

  return {
    add: (site, shop, event) => addAll(site, shop, [event]) > 0,
    addAll: (site, shop, events) => void addAll(site, shop, events),
    reread: (site, shop, event) =>
      together(() => {
        const before = byId.all(site, shop, event.id).map(eventIn);
        const named = buyers.connected(
          site,
          before.flatMap((one) => namedWith(site, shop, one)),
        );
        reread.run({ ...event, shop, isPartly: Number(event.isPartly) });
        note(site);
        buyers.renew(site, [...named, ...namedWith(site, shop, event)]);
      }),
    erase: (site, buyer) =>
      together(() => {
        // Who is known by an id may have bought with an address alone, and the other way round.
        const toForget = buyers.connected(site, [buyer]);
        const erased = new Map<string, ReceivedEvent>();
        for (const one of toForget)
          for (const event of buyers.of(site, one)) erased.set(`${event.shop} ${event.id}`, event);
        for (const { shop, id } of erased.values()) erase.run(shop, id);
        for (const { email, visitor } of toForget)
          for (const name of [email, visitor === null ? null : JSON.stringify(visitor)])
            if (name !== null) forgetRejected.run(site, name, name);
        note(site);
        buyers.renew(site, toForget);
        return erased.size;
      }),
    changes: (site) => changed.get(site) ?? 0,
    eventsOf: (site, buyer) => buyers.of(site, buyer),
    purchasesOf: (site, buyer, at) => purchasesIn(buyers.of(site, buyer), buyer, at),
    eventsOfPurchase: (site, shop, purchase) => ofPurchase.all(site, shop, purchase).map(eventIn),
    buyersOf: (site, purchase) =>
      shops
        .all({ site })
        .flatMap((shop) => ofPurchase.all(site, shop, purchase).map(eventIn))
        .map(({ email, visitor }) => ({ email, visitor }))
        .filter(({ email, visitor }) => email !== null || visitor !== null),
    events: (site, skip, limit) => ({
      found: count.get(site)!,
      events: events.all(site, limit, skip).map(eventIn),
    }),
    products: (site) => products.all(site),
    bodiesOf: (site, product, limit) => bodiesOf.all(site, product, limit),
    together,
    nextPurchases: (site, after, limit) =>
      next.all(site, after.shop, after.purchase, limit).map(eventIn),
    moves: (site) =>
      shops
        .all({ site })
        .flatMap((shop) => ofPurchase.all(site, shop, '').map(eventIn))
        .filter(({ type }) => type === 'buyer.moved'),
  };
}
