import { decisions, type model } from '@kleidon/core';
import type { Db } from './database.ts';

/** Something that a shop told, with when that arrived. */
export interface ReceivedEvent extends model.ShopEvent {
  readonly shop: string;
  /** Milliseconds since 1970. */
  readonly receivedAt: number;
}

/** Something that a shop told and that could not be understood. */
export interface RejectedEvent {
  readonly shop: string;
  readonly id: string;
  /** What came, as JSON. */
  readonly body: string;
  readonly problem: string;
  readonly receivedAt: number;
}

/** By what a buyer is known: an address that was verified, and their id on the website. */
export interface Buyer {
  readonly email: string | null;
  readonly visitor: string | null;
}

/** A purchase as it stands at a moment, with the events that made it so. */
export interface KnownPurchase extends decisions.LedgerPurchase {
  readonly shop: string;
  readonly events: readonly ReceivedEvent[];
}

/** What shops told, and the purchases that follow from it. */
export interface LedgerStore {
  /** Keeps an event. @returns whether it is new; one that is known changes nothing */
  add(site: string, shop: string, event: model.ShopEvent, receivedAt: number): boolean;
  /** Keeps what could not be understood; what comes again takes the place of what was there. */
  reject(site: string, rejected: RejectedEvent): void;
  /** Forgets who a buyer is. What they bought is kept for counting. */
  erase(site: string, buyer: Buyer): void;
  /** The purchases of a buyer, as they stand at a moment in milliseconds since 1970. */
  purchasesOf(site: string, buyer: Buyer, at: number): KnownPurchase[];
  /** The last events of a site, the newest first. */
  events(site: string, skip: number, limit: number): { found: number; events: ReceivedEvent[] };
  rejected(site: string, limit: number): RejectedEvent[];
}

interface Row extends Omit<ReceivedEvent, 'isPartly'> {
  readonly isPartly: number;
}

const eventIn = (row: Row): ReceivedEvent => ({ ...row, isPartly: row.isPartly === 1 });

/** A shop that tells nonsense must not fill the disk. */
const MOST_REJECTED = 1000;

const EVENT = `shop, id, type, at, purchase, product, valid_from as "from", valid_until as until,
  is_partly as isPartly, email, visitor, former_email as formerEmail, received_at as receivedAt`;

/** The statements on what shops tell. */
export function ledgerStore(db: Db): LedgerStore {
  const add = db.prepare(
    `insert into shop_event (site_id, shop, id, type, at, purchase, product, valid_from, valid_until,
       is_partly, email, visitor, former_email, received_at)
     values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) on conflict do nothing`,
  );
  const understood = db.prepare('delete from rejected_event where shop = ? and id = ?');
  const reject = db.prepare(
    `insert into rejected_event (site_id, shop, id, body, problem, received_at) values (?, ?, ?, ?, ?, ?)
     on conflict do update set body = excluded.body, problem = excluded.problem,
       received_at = excluded.received_at`,
  );
  const tooMany = db.prepare(
    `delete from rejected_event where site_id = ? and rowid not in
       (select rowid from rejected_event where site_id = ? order by received_at desc limit ?)`,
  );
  // Each by an index of its own: together, the planner would read all events of a site.
  const eventsBy = (column: string, index: string) =>
    db.prepare<[string, string], Row>(
      `select ${EVENT} from shop_event indexed by ${index} where site_id = ? and ${column} = ?`,
    );
  const byEmail = eventsBy('email', 'shop_event_of_email');
  const byFormerEmail = eventsBy('former_email', 'shop_event_of_former_email');
  const byVisitor = eventsBy('visitor', 'shop_event_of_visitor');
  const ofPurchase = db.prepare<[string, string, string], Row>(
    `select ${EVENT} from shop_event indexed by shop_event_of_purchase
     where site_id = ? and shop = ? and purchase = ?`,
  );
  const erase = db.prepare(
    `update shop_event set email = null, visitor = null, former_email = null where shop = ? and id = ?`,
  );
  const events = db.prepare<[string, number, number], Row>(
    `select ${EVENT} from shop_event where site_id = ? order by received_at desc, id limit ? offset ?`,
  );
  const count = db.prepare<[string], { count: number }>(
    'select count(*) as count from shop_event where site_id = ?',
  );
  const rejected = db.prepare<[string, number], RejectedEvent>(
    `select shop, id, body, problem, received_at as receivedAt from rejected_event
     where site_id = ? order by received_at desc, id limit ?`,
  );
  /** All that may matter to the purchases of a buyer, under each address that led to theirs. */
  const eventsOf = (site: string, { email, visitor }: Buyer): ReceivedEvent[] => {
    const found = new Map<string, Row>();
    const note = (rows: readonly Row[]): void => {
      for (const row of rows) found.set(JSON.stringify([row.shop, row.id]), row);
    };
    if (visitor !== null) note(byVisitor.all(site, visitor));
    const addresses = new Set(email === null ? [] : [email]);
    // The set grows while it is read.
    for (const address of addresses) {
      const own = byEmail.all(site, address);
      note([...own, ...byFormerEmail.all(site, address)]);
      for (const { formerEmail } of own) if (formerEmail !== null) addresses.add(formerEmail);
    }
    const purchases = new Map(
      [...found.values()].map(({ shop, purchase }) => [
        JSON.stringify([shop, purchase]),
        { shop, purchase },
      ]),
    );
    for (const { shop, purchase } of purchases.values())
      if (purchase !== '') note(ofPurchase.all(site, shop, purchase));
    return [...found.values()].map(eventIn);
  };

  const purchasesOf: LedgerStore['purchasesOf'] = (site, buyer, at) => {
    const all = eventsOf(site, buyer);
    const shops = [...new Set(all.map(({ shop }) => shop))];
    return shops.flatMap((shop) => {
      const own = all.filter((event) => event.shop === shop);
      return decisions
        .purchasesAt(own, at)
        .filter(
          (one) =>
            (buyer.email !== null && one.email === buyer.email) ||
            (buyer.visitor !== null && one.visitor === buyer.visitor),
        )
        .map((one) => ({
          ...one,
          shop,
          events: own
            .filter(({ purchase }) => purchase === one.id)
            .sort((a, b) => a.at - b.at || (a.id < b.id ? -1 : 1)),
        }));
    });
  };

  return {
    add: db.transaction<LedgerStore['add']>((site, shop, event, receivedAt) => {
      const { changes } = add.run(
        site,
        shop,
        event.id,
        event.type,
        event.at,
        event.purchase,
        event.product,
        event.from,
        event.until,
        Number(event.isPartly),
        event.email,
        event.visitor,
        event.formerEmail,
        receivedAt,
      );
      understood.run(shop, event.id);
      return changes > 0;
    }),
    reject: db.transaction<LedgerStore['reject']>((site, rejected) => {
      const { shop, id, body, problem, receivedAt } = rejected;
      reject.run(site, shop, id, body, problem, receivedAt);
      tooMany.run(site, site, MOST_REJECTED);
    }),
    erase: db.transaction<LedgerStore['erase']>((site, buyer) => {
      for (const { shop, id } of eventsOf(site, buyer)) erase.run(shop, id);
    }),
    purchasesOf,
    events: (site, skip, limit) => ({
      found: count.get(site)!.count,
      events: events.all(site, limit, skip).map(eventIn),
    }),
    rejected: (site, limit) => rejected.all(site, limit),
  };
}
