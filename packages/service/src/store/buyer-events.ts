import type { model } from '@kleidon/core';
import type { Buyer, ReceivedEvent } from './buyer-purchases.ts';
import type { Db } from './database.ts';
import { columnsOf, eventIn, type Row } from './event-row.ts';

/** More than any buyer is told of. Whoever has more is looked for anew each time: to keep theirs would take longer. */
const MOST_KEPT = 200;

/** In place of what is told of them. */
const TOO_MANY = '';

/** What shops told of each buyer. */
export interface BuyerEvents {
  /** What was told of a buyer, under each address that leads to theirs: one look for each name they have. */
  of(site: string, buyer: Buyer): ReceivedEvent[];
  /** Everyone of whom something is told together with some of these: by a purchase, or another address. */
  connected(site: string, buyers: Iterable<Buyer>): Buyer[];
  /** Keeps what is told of some buyers, and of those who are connected with them, as it has become. */
  keep(site: string, buyers: Iterable<Buyer>): void;
  /** The same where something is told no more: of all who were connected before. */
  renew(site: string, buyers: readonly Buyer[]): void;
}

interface SiteFacts {
  readonly changes: number;
  /** Whether any event names a buyer by their id. */
  readonly hasVisitors: boolean;
  /** Whether any event is about a buyer and no purchase: of another address, or a second one. */
  readonly hasMoves: boolean;
}

/**
 * What was told of each buyer is kept in a row for each name they are known by, beside the events themselves: who
 * buys at a shop asks for pages much more often than the shop tells of them.
 *
 * @param changes how often what is known of a site has changed
 */
export function buyerEvents(db: Db, changes: (site: string) => number): BuyerEvents {
  // Each by an index of its own: together, the planner would read all events of a site.
  const eventsBy = (column: string) =>
    db
      .prepare<[string, string], Row>(
        `select ${columnsOf('own')} from shop_event own indexed by shop_event_of_${column}
         where own.site_id = ? and own.${column} = ?`,
      )
      .raw();
  const byEmail = eventsBy('email');
  const byFormerEmail = eventsBy('former_email');
  const byVisitor = eventsBy('visitor');
  /** All events of the purchases of which some event names a buyer. */
  const purchasesBy = (column: string) =>
    db
      .prepare<[string, string], Row>(
        `select ${columnsOf('one')} from shop_event own indexed by shop_event_of_${column}
         cross join shop_event one
           on one.site_id = own.site_id and one.shop = own.shop and one.purchase = own.purchase
         where own.site_id = ? and own.${column} = ? and own.purchase > ''`,
      )
      .raw();
  const purchasesByEmail = purchasesBy('email');
  const purchasesByVisitor = purchasesBy('visitor');
  const hasVisitors = db
    .prepare<[string], number>(
      `select exists (select 1 from shop_event indexed by shop_event_of_visitor
         where site_id = ? and visitor is not null)`,
    )
    .pluck();
  const hasMoves = db
    .prepare<[string], number>(
      `select exists (select 1 from shop_event indexed by shop_event_of_buyers
         where site_id = ? and purchase = '')`,
    )
    .pluck();
  const kept = db
    .prepare<[string, string], string>('select events from buyer where site_id = ? and name = ?')
    .pluck();
  const put = db.prepare(
    `insert into buyer (site_id, name, events) values (?, ?, ?)
     on conflict do update set events = excluded.events`,
  );
  const drop = db.prepare('delete from buyer where site_id = ? and name = ?');
  const isWithout = db
    .prepare<[], number>(
      `select not exists (select 1 from buyer) and (
         exists (select 1 from shop_event indexed by shop_event_of_email where email is not null) or
         exists (select 1 from shop_event indexed by shop_event_of_visitor where visitor is not null))`,
    )
    .pluck();
  const allNamed = db.prepare<[], Buyer & { site: string }>(
    `select site_id as site, email, null as visitor from shop_event where email is not null
     union select site_id, former_email, null from shop_event where former_email is not null
     union select site_id, null, visitor from shop_event where visitor is not null`,
  );

  /** What is the same until something changes: how many events there are, and how buyers are named in them. */
  const known = new Map<string, SiteFacts>();
  const factsOf = (site: string): SiteFacts => {
    let facts = known.get(site);
    if (facts?.changes !== changes(site)) {
      facts = {
        changes: changes(site),
        hasVisitors: hasVisitors.get(site) === 1,
        hasMoves: hasMoves.get(site) === 1,
      };
      known.set(site, facts);
    }
    return facts;
  };

  const find = (site: string, buyer: Buyer): Row[] => {
    const facts = factsOf(site);
    const found = new Map<string, Row>();
    const add = (rows: readonly Row[]): void => {
      for (const row of rows) found.set(idOf(row), row);
    };
    // Names from which purchases may have come to the buyer, by moves and links. The list grows while it is read.
    const sources = new Map(eachName(buyer).map((one) => [nameOf(one), one]));
    for (const { email, visitor } of sources.values()) {
      if (email !== null) add(purchasesByEmail.all(site, email));
      else if (facts.hasVisitors) add(purchasesByVisitor.all(site, visitor!));
      if (!facts.hasMoves) continue;
      const own = email === null ? byVisitor.all(site, visitor!) : namedByEmail(site, email);
      add(own);
      if (email === null) continue;
      for (const event of own.map(eventIn))
        for (const one of sourcesOf(event, email)) sources.set(nameOf(one), one);
    }
    if (!facts.hasMoves) return [...found.values()];
    // A move of any other name of these purchases may have taken an address from them.
    const others = new Map(
      [...found.values()]
        .map(eventIn)
        .flatMap(buyersIn)
        .flatMap(eachName)
        .map((one) => [nameOf(one), one]),
    );
    for (const [name, { email, visitor }] of others)
      if (!sources.has(name))
        add(
          (email === null ? byVisitor.all(site, visitor!) : byFormerEmail.all(site, email)).filter(
            (row) => row[4] === '',
          ),
        );
    return [...found.values()];
  };
  const namedByEmail = (site: string, email: string): Row[] => [
    ...byEmail.all(site, email),
    ...byFormerEmail.all(site, email),
  ];

  /** Under one name: what is kept, or what is found where that is too much to be kept. */
  const read = (site: string, buyer: Buyer): Row[] => {
    if (buyer.visitor !== null && !factsOf(site).hasVisitors) return [];
    const text = kept.get(site, nameOf(buyer));
    if (text === undefined) return [];
    return text === TOO_MANY ? find(site, buyer) : (JSON.parse(text) as Row[]);
  };

  /** What is told of some buyers, and of each who is named with them, but for those who are passed over. */
  const around = (
    site: string,
    buyers: Iterable<Buyer>,
    isPassed: (name: string) => boolean,
  ): Map<string, readonly [Buyer, readonly Row[]]> => {
    const reached = new Map<string, readonly [Buyer, readonly Row[]]>();
    const toFind = [...buyers].flatMap(eachName);
    for (const buyer of toFind) {
      const name = nameOf(buyer);
      if (reached.has(name) || isPassed(name)) continue;
      const rows = find(site, buyer);
      reached.set(name, [buyer, rows]);
      for (const row of rows) toFind.push(...buyersIn(eventIn(row)).flatMap(eachName));
    }
    return reached;
  };

  const keep: BuyerEvents['keep'] = (site, buyers) => {
    // Whoever is told of with them through one of whom there is too much has too much, too.
    const isTooMany = (name: string): boolean => kept.get(site, name) === TOO_MANY;
    for (const [name, [, rows]] of around(site, buyers, isTooMany))
      if (rows.length === 0) drop.run(site, name);
      else put.run(site, name, rows.length > MOST_KEPT ? TOO_MANY : JSON.stringify(rows));
  };

  // A database of a version that did not keep them.
  if (isWithout.get() === 1)
    db.transaction(() => {
      for (const { site, ...buyer } of allNamed.all()) keep(site, [buyer]);
    })();

  return {
    of: (site, { email, visitor }) => {
      const own = email === null ? [] : read(site, { email, visitor: null });
      const byId = visitor === null ? [] : read(site, { email: null, visitor });
      if (byId.length === 0) return own.map(eventIn);
      const all = new Map([...own, ...byId].map((row) => [idOf(row), row]));
      return [...all.values()].map(eventIn);
    },
    connected: (site, buyers) =>
      [...around(site, buyers, () => false).values()].map(([buyer]) => buyer),
    keep,
    renew: (site, buyers) => {
      for (const buyer of buyers) for (const one of eachName(buyer)) drop.run(site, nameOf(one));
      keep(site, buyers);
    },
  };
}

const idOf = (row: Row): string => `${row[0]} ${row[1]}`;
const nameOf = ({ email, visitor }: Buyer): string =>
  email === null ? `visitor ${visitor}` : `email ${email}`;

/** A buyer under each of their names alone. */
const eachName = ({ email, visitor }: Buyer): Buyer[] => [
  ...(email === null ? [] : [{ email, visitor: null }]),
  ...(visitor === null ? [] : [{ email: null, visitor }]),
];

/** The names from which an event may have brought purchases to an address. */
function sourcesOf(
  { type, email, formerEmail, visitor }: model.ShopEvent,
  address: string,
): Buyer[] {
  if (type === 'buyer.moved' && email === address) return eachName({ email: formerEmail, visitor });
  const isLink = type === 'buyer.linked' || type === 'buyer.unlinked';
  return isLink ? eachName({ email: email === address ? formerEmail : email, visitor: null }) : [];
}

/** Whom an event names. */
export const buyersIn = ({ email, formerEmail, visitor }: model.ShopEvent): Buyer[] => [
  { email, visitor },
  ...(formerEmail === null ? [] : [{ email: formerEmail, visitor: null }]),
];
