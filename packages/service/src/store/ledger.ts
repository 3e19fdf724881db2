import { model, purchases } from '@kleidon/core';
import { BY_HAND } from '../settings/shops.ts';
import {
  purchasesIn,
  type Buyer,
  type KnownPurchase,
  type ReceivedEvent,
} from './buyer-purchases.ts';
import { buyerEvents, buyersIn } from './buyer-events.ts';
import type { Db } from './database.ts';
import { erasures, mentions, namesIn } from './erasures.ts';
import { columnsOf, eventIn, type Row } from './event-row.ts';

/** An event that is to be kept. */
export interface NewEvent extends model.ShopEvent {
  readonly receivedAt: number;
  readonly note?: string | undefined;
  /** What came, where it was read by the settings of the shop: to be read anew when they change. */
  readonly body?: string | undefined;
}

/** An erasure by a shop, of its own events; or by hand, of those of every shop. */
export interface EraseEvent {
  readonly shop: string;
  readonly id: string;
  /** In milliseconds since 1970. */
  readonly at: number;
  readonly receivedAt: number;
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
  /**
   * Erases the names of a buyer from what was told before a moment, now and whenever it comes. What they bought is kept
   * for counting, and other names keep it.
   * @returns how many events named them; null where the event is known already
   */
  erase(site: string, buyer: Buyer, event: EraseEvent): number | null;
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
     where site_id = @site and shop = @shop and id = @id and body is not null`,
  );
  const understood = db.prepare(
    'delete from rejected_event where site_id = ? and shop = ? and id = ?',
  );
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
  const named = (column: string) =>
    db
      .prepare<{ site: string; name: string; at: number }, Row>(
        `select ${columnsOf('shop_event')} from shop_event indexed by shop_event_of_${column}
         where site_id = @site and ${column} = @name and at < @at`,
      )
      .raw();
  const namedBy = {
    email: [named('email'), named('former_email')],
    visitor: [named('visitor')],
  } as const;
  const rename = db.prepare(
    `update shop_event set email = @email, visitor = @visitor, former_email = @formerEmail, note = null, body = null
     where site_id = @site and shop = @shop and id = @id`,
  );
  // What the settings do not read may name somebody too.
  const bodiesWith = db.prepare<
    { site: string; shop: string | null; name: string; at: number },
    { shop: string; id: string; body: string }
  >(
    `select shop, id, body from shop_event where site_id = @site and (@shop is null or shop = @shop)
       and at < @at and body is not null and instr(lower(body), lower(@name)) > 0`,
  );
  const forgetBody = db.prepare(
    'update shop_event set body = null where site_id = ? and shop = ? and id = ?',
  );
  // What was noted about a purchase may name whoever it was sold to.
  const forgetNotes = db.prepare(
    'update shop_event set note = null where site_id = ? and shop = ? and purchase = ? and at < ?',
  );
  const rejectedBefore = db.prepare<
    { site: string; shop: string | null; at: number },
    { shop: string; id: string; body: string; problem: string }
  >(
    `select shop, id, body, problem from rejected_event
     where site_id = @site and (@shop is null or shop = @shop) and received_at < @at`,
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
  const erased = erasures(db);
  /** An event without the names that were erased after it happened. */
  const withoutErased = <T extends NewEvent>(site: string, shop: string, event: T): T => {
    if (!erased.has(site)) return event;
    const inPlaceOf = (kind: 'email' | 'visitor', name: string | null): string | null =>
      name === null ? null : erased.inPlaceOf(site, shop, kind, name, event.at);
    const names = {
      email: inPlaceOf('email', event.email),
      formerEmail: inPlaceOf('email', event.formerEmail),
      visitor: inPlaceOf('visitor', event.visitor),
    };
    if (namesIn(names).every(([, name]) => !purchases.isErased(name))) return event;
    return {
      ...event,
      ...(isLink(event) ? { email: null, formerEmail: null } : names),
      note: undefined,
      body: undefined,
    };
  };
  const insert = (site: string, shop: string, event: NewEvent): boolean => {
    const { changes } = add.run({
      ...event,
      note: event.note ?? null,
      body: event.body ?? null,
      site,
      shop,
      isPartly: Number(event.isPartly),
    });
    understood.run(site, shop, event.id);
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
      const added = events
        .map((event) => withoutErased(site, shop, event))
        .filter((event) => insert(site, shop, event));
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
        const read = withoutErased(site, shop, { ...event, receivedAt: 0 });
        reread.run({ ...read, site, shop, isPartly: Number(event.isPartly) });
        note(site);
        buyers.renew(site, [...named, ...namedWith(site, shop, read)]);
      }),
    erase: (site, { email, visitor }, { shop, id, at, receivedAt }) =>
      together(() => {
        const event = { id, type: 'buyer.erased' as const, at, ...model.UNSAID, receivedAt };
        if (!insert(site, shop, event)) return null;
        const scope = shop === BY_HAND ? null : shop;
        const renamed = new Map<string, ReceivedEvent>();
        const affected: Buyer[] = [];
        for (const [kind, name] of namesIn({ email, visitor, formerEmail: null })) {
          erased.add(site, kind, name, { shop: scope, at });
          const events = erased
            .allOf(site, kind, name)
            .flatMap((one) => namedBy[kind].flatMap((by) => by.all({ site, name: one, at })))
            .map((row) => ({ row: eventIn(row), key: `${row[0]} ${row[1]}` }))
            .filter(({ row }) => scope === null || row.shop === scope);
          for (const { row, key } of events) {
            affected.push(...buyers.connected(site, buyersIn(row)));
            const before = renamed.get(key) ?? row;
            renamed.set(key, withoutName(before, kind, name));
          }
          for (const one of bodiesWith.all({ site, shop: scope, name, at }))
            if (mentions(one.body, kind, name)) forgetBody.run(site, one.shop, one.id);
          for (const one of rejectedBefore.all({ site, shop: scope, at }))
            if (mentions(one.body, kind, name) || mentions(one.problem, kind, name))
              understood.run(site, one.shop, one.id);
        }
        for (const one of renamed.values()) {
          rename.run({ ...one, site });
          if (one.purchase !== '') forgetNotes.run(site, one.shop, one.purchase, at);
        }
        note(site);
        buyers.renew(site, [...affected, ...[...renamed.values()].flatMap(buyersIn)]);
        return renamed.size;

        function withoutName(
          event: ReceivedEvent,
          kind: 'email' | 'visitor',
          name: string,
        ): ReceivedEvent {
          // Who is linked is for the operator to say: without one of the two names, there is no link.
          if (isLink(event)) return { ...event, email: null, formerEmail: null };
          const all = new Set(erased.allOf(site, kind, name));
          const inPlaceOf = erased.inPlaceOf(site, event.shop, kind, name, event.at);
          const replaced = (one: string | null): string | null =>
            one !== null && all.has(one) ? inPlaceOf : one;
          return kind === 'visitor'
            ? { ...event, visitor: replaced(event.visitor) }
            : { ...event, email: replaced(event.email), formerEmail: replaced(event.formerEmail) };
        }
      }),
    changes: (site) => changed.get(site) ?? 0,
    eventsOf: (site, buyer) => buyers.of(site, buyer),
    purchasesOf: (site, buyer, at) => purchasesIn(buyers.of(site, buyer), buyer, at),
    eventsOfPurchase: (site, shop, purchase) => ofPurchase.all(site, shop, purchase).map(eventIn),
    buyersOf: (site, purchase) =>
      shops
        .all({ site })
        .flatMap((shop) => ofPurchase.all(site, shop, purchase).map(eventIn))
        .map(({ email, visitor }) => ({
          email: purchases.knownName(email),
          visitor: purchases.knownName(visitor),
        }))
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

const isLink = ({ type }: model.ShopEvent): boolean =>
  type === 'buyer.linked' || type === 'buyer.unlinked';
