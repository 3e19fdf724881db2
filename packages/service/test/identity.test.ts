import type { model } from '@kleidon/core';
import { PairCounter, report } from '../../core/test/reference/pairs.ts';
import { randomBy } from '../../core/test/reference/random-site.ts';
import { openDatabase, type Db } from '../src/store/database.ts';
import { ledgerStore, type LedgerStore } from '../src/store/ledger.ts';
import { temporaryFolder } from './running.ts';

/** Whose purchases are whose, by the sentences of docs/identity.md alone, against random sequences of events. */

const SEQUENCES = Number(process.env['KLEIDON_SEQUENCES'] ?? 250);
const SEED = Number(process.env['KLEIDON_SEED'] ?? 1);
const LEAST = SEQUENCES >= 5000 ? 20 : 0;
const BY_HAND = 'by-hand';
const SHOPS = ['hut', 'kiosk', BY_HAND];
const EMAILS = ['a@x.example', 'b@x.example', 'c@x.example', 'd@x.example'];
const IDS = ['u', 'v'];

const random = randomBy(SEED);
const one = <T>(of: readonly T[]): T => of[Math.floor(random() * of.length)]!;
const perhaps = <T>(share: number, of: readonly T[]): T | null =>
  random() < share ? one(of) : null;

type Fact = model.ShopEvent & { readonly shop: string };
interface Name {
  readonly email: string | null;
  readonly visitor: string | null;
}

const TYPES = [
  ...['purchase.made', 'purchase.renewed', 'purchase.refunded', 'purchase.changed'],
  ...['buyer.moved', 'buyer.erased', 'buyer.linked', 'buyer.unlinked'],
] as const;
const DIMENSIONS = {
  type: [...TYPES],
  arrival: ['in order', 'late', 'twice', 'same time'],
  names: ['one name', 'two names', 'by an id'],
  other: [...TYPES],
  asked: ['before', 'at', 'after'],
  shop: ['hut', 'kiosk', BY_HAND],
};

let ids = 0;
function factByChance(): Fact {
  const type = one([...TYPES, 'purchase.made', 'purchase.made', 'buyer.moved'] as const);
  const isByHand = type === 'buyer.linked' || type === 'buyer.unlinked';
  const shop = isByHand ? BY_HAND : type === 'buyer.moved' ? one(['hut', 'kiosk']) : one(SHOPS);
  const [email, visitor] = [perhaps(0.7, EMAILS), perhaps(0.3, IDS)];
  const fact = {
    shop,
    id: `e${++ids}`,
    type,
    at: Math.floor(random() * 12),
    purchase: type.startsWith('buyer.') ? '' : one(['p1', 'p2', 'p3', 'p4']),
    product: 'map',
    from: null,
    until: null,
    isPartly: false,
    email,
    visitor: email === null ? (visitor ?? one(IDS)) : visitor,
    formerEmail: null,
  };
  if (type === 'buyer.moved') {
    const formerEmail = perhaps(0.8, EMAILS);
    const id = formerEmail === null ? one(IDS) : perhaps(0.2, IDS);
    return { ...fact, email: one(EMAILS), formerEmail, visitor: id };
  }
  if (isByHand) {
    const first = one(EMAILS);
    const formerEmail = one(EMAILS.filter((email) => email !== first));
    return { ...fact, email: first, formerEmail, visitor: null };
  }
  return fact;
}

const covers = (erasure: Fact, shop: string): boolean =>
  erasure.shop === BY_HAND || erasure.shop === shop;
const namesOf = ({ email, visitor }: Name): string[] => [
  ...(email === null ? [] : [`email ${email}`]),
  ...(visitor === null ? [] : [`id ${visitor}`]),
];

/** The names that hold each purchase of a shop just after a moment. */
function holdersAt(facts: readonly Fact[], shop: string, moment: number): Map<string, Set<string>> {
  const holders = new Map<string, Set<string>>();
  const times = [...new Set(facts.map(({ at }) => at))].filter((at) => at <= moment);
  for (const time of times.sort((a, b) => a - b)) {
    const now = facts.filter(({ at }) => at === time);
    for (const erasure of now.filter((one) => one.type === 'buyer.erased' && covers(one, shop)))
      for (const held of holders.values()) for (const name of namesOf(erasure)) held.delete(name);
    const own = now.filter((one) => one.shop === shop);
    const before = new Map([...holders].map(([purchase, held]) => [purchase, new Set(held)]));
    const moves = own.filter(({ type }) => type === 'buyer.moved');
    const movesOf = (held: Set<string>): Fact[] =>
      moves.filter(
        ({ formerEmail, visitor }) => held.has(`email ${formerEmail}`) || held.has(`id ${visitor}`),
      );
    for (const [purchase, held] of before) {
      const after = holders.get(purchase)!;
      for (const { formerEmail } of movesOf(held))
        for (const name of held)
          if (formerEmail === null ? name.startsWith('email ') : name === `email ${formerEmail}`)
            after.delete(name);
      for (const { email } of movesOf(held)) after.add(`email ${email}`);
    }
    for (const { purchase, ...event } of own.filter(({ type }) => type.startsWith('purchase.'))) {
      const held = holders.get(purchase) ?? new Set();
      holders.set(purchase, held);
      for (const name of namesOf(event)) held.add(name);
    }
  }
  return holders;
}

/** The addresses that are linked to one at a moment. */
function linkedTo(facts: readonly Fact[], email: string, moment: number): string[] {
  const isErased = (fact: Fact): boolean =>
    facts.some(
      (one) =>
        one.type === 'buyer.erased' &&
        one.shop === BY_HAND &&
        one.at > fact.at &&
        one.email !== null &&
        [fact.email, fact.formerEmail].includes(one.email),
    );
  const isLinked = (other: string): boolean => {
    const between = facts
      .filter(({ type, at }) => /^buyer\.(?:un)?linked$/.test(type) && at <= moment)
      .filter((fact) => !isErased(fact))
      .filter(
        (one) =>
          (one.email === email && one.formerEmail === other) ||
          (one.email === other && one.formerEmail === email),
      );
    const last = Math.max(...between.map(({ at }) => at));
    const then = between.filter(({ at }) => at === last);
    return then.length > 0 && then.every(({ type }) => type === 'buyer.linked');
  };
  return EMAILS.filter((other) => other !== email && isLinked(other));
}

/** The purchases that somebody has at a moment. */
function purchasesOf(facts: readonly Fact[], buyer: Name, moment: number): string[] {
  const names = [
    ...namesOf(buyer),
    ...(buyer.email === null
      ? []
      : linkedTo(facts, buyer.email, moment).map((one) => `email ${one}`)),
  ];
  return SHOPS.flatMap((shop) => {
    const holders = holdersAt(facts, shop, moment);
    // What is erased later is erased from the past as well.
    const known = names.filter(
      (name) =>
        !facts.some(
          (one) =>
            one.type === 'buyer.erased' &&
            one.at > moment &&
            covers(one, shop) &&
            namesOf(one).includes(name),
        ),
    );
    return [...holders].flatMap(([purchase, held]) => {
      const own = facts.filter(
        (one) => one.shop === shop && one.purchase === purchase && one.at <= moment,
      );
      const isMade = own.some(({ type }) => type === 'purchase.made');
      if (!isMade || !known.some((name) => held.has(name))) return [];
      const latest = (type: string): number =>
        Math.max(-1, ...own.filter((one) => one.type === type).map(({ at }) => at));
      const refunded = latest('purchase.refunded');
      const isRefunded = refunded >= 0 && refunded >= latest('purchase.renewed');
      return [`${shop}/${purchase}${isRefunded ? ' refunded' : ''}`];
    });
  }).sort();
}

describe('whose purchase it is', () => {
  const folder = temporaryFolder();
  let db: Db;
  let ledger: LedgerStore;
  beforeAll(() => {
    db = openDatabase(folder.path);
    ledger = ledgerStore(db);
  });
  afterAll(() => {
    db.close();
    folder.remove();
  });

  const deliver = (site: string, { shop, ...event }: Fact, receivedAt: number): void => {
    if (event.type === 'buyer.erased') {
      const { email, visitor, id, at } = event;
      ledger.erase(site, { email, visitor }, { shop, id, at, receivedAt });
    } else ledger.add(site, shop, { ...event, receivedAt, body: JSON.stringify(event) });
  };
  const asked = (site: string, buyer: Name, moment: number): string[] =>
    ledger
      .purchasesOf(site, buyer, moment)
      .map(({ shop, id, refunded }) => `${shop}/${id}${refunded ? ' refunded' : ''}`)
      .sort();

  test('follows from the events alone, in whatever order and however often they come', () => {
    const pairs = new PairCounter(DIMENSIONS);
    let events = 0;
    let questions = 0;
    const differing: string[] = [];
    for (let sequence = 0; sequence < SEQUENCES; sequence++) {
      const site = `s${sequence}`;
      db.prepare("insert into site (id, created_at) values (?, '2026')").run(site);
      const facts = Array.from({ length: 3 + Math.floor(random() * 14) }, factByChance);
      const order = [...facts, ...facts.filter(() => random() < 0.25)]
        .map((fact) => ({ fact, key: fact.at + random() * 12 }))
        .sort((a, b) => a.key - b.key);
      const delivered: Fact[] = [];
      for (const [i, { fact }] of order.entries()) {
        const arrival = delivered.includes(fact)
          ? 'twice'
          : delivered.some(({ at }) => at > fact.at)
            ? 'late'
            : delivered.some(({ at }) => at === fact.at)
              ? 'same time'
              : 'in order';
        deliver(site, fact, i);
        events++;
        if (!delivered.includes(fact)) delivered.push(fact);
        if (random() < 0.05) ledger = ledgerStore(db);
        for (let question = 0; question < 3; question++) {
          const email = perhaps(0.8, EMAILS);
          const buyer = { email, visitor: email === null ? one(IDS) : perhaps(0.3, IDS) };
          const moment = Math.floor(random() * 14) - 1;
          questions++;
          const [actual, expected] = [
            asked(site, buyer, moment),
            purchasesOf(delivered, buyer, moment),
          ];
          if (String(actual) !== String(expected))
            differing.push(JSON.stringify({ buyer, moment, actual, expected, delivered }, null, 1));
          if (expected.length === 0 && moment >= 0) continue;
          pairs.add({
            type: [fact.type],
            arrival: [arrival],
            names: [
              fact.email !== null && fact.visitor !== null
                ? 'two names'
                : fact.email === null
                  ? 'by an id'
                  : 'one name',
            ],
            other: delivered.filter((each) => each !== fact).map(({ type }) => type),
            asked: [moment < fact.at ? 'before' : moment === fact.at ? 'at' : 'after'],
            shop: [fact.shop],
          });
        }
      }
      const left = ledger
        .events(site, 0, 1000)
        .events.filter(({ shop, at, email, formerEmail, visitor }) =>
          facts.some(
            (erasure) =>
              erasure.type === 'buyer.erased' &&
              erasure.at > at &&
              covers(erasure, shop) &&
              ((erasure.email !== null && [email, formerEmail].includes(erasure.email)) ||
                (erasure.visitor !== null && visitor === erasure.visitor)),
          ),
        );
      if (left.length > 0) differing.push(JSON.stringify({ left, facts }, null, 1));
      if (differing.length > 0) break;
    }
    const missed = pairs.missed(LEAST, isImpossible);
    if (LEAST > 0) report({ events, questions, missed });
    expect(differing.slice(0, 1)).toEqual([]);
    expect(missed).toEqual([]);
  });
});

/** Links are made by hand, of two addresses; moves are for shops. */
const isImpossible = (one: string, other: string): boolean =>
  (/^type: buyer\.(?:un)?linked$/.test(one) &&
    /^(?:names: (?!one)|shop: (?!by-hand))/.test(other)) ||
  (one === 'type: buyer.moved' && other === 'shop: by-hand') ||
  (one === 'type: buyer.moved' && other === 'names: by an id');
