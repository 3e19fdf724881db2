import { createHmac, randomBytes } from 'node:crypto';
import { type model, purchases } from '@kleidon/core';
import type { Db } from './database.ts';

/** Whose names are erased where, and when. */
export interface Erasure {
  /** Null for every shop of the site. */
  readonly shop: string | null;
  /** In milliseconds since 1970: events before it lose the name. */
  readonly at: number;
}

/** The kinds of names, which are never compared with each other. */
type Kind = 'email' | 'visitor';

/**
 * Erased names, each known by a keyed hash. In events, a pseudonym takes the place of an erased name: the purchases
 * and moves of everyone else stay as they are.
 */
export interface Erasures {
  /** Whether any name of a site was erased. */
  has(site: string): boolean;
  add(site: string, kind: Kind, name: string, erasure: Erasure): void;
  /**
   * What stands in events in place of a name: the pseudonym of the first erasure after the event.
   * @returns the name itself where none is
   */
  inPlaceOf(site: string, shop: string, kind: Kind, name: string, at: number): string;
  /** Every pseudonym of a name, and the name. */
  allOf(site: string, kind: Kind, name: string): string[];
}

/** The statements on erased names. */
export function erasures(db: Db): Erasures {
  const readKey = db.prepare<[], Buffer>("select value from secret where name = 'erasure'").pluck();
  const keepKey = db.prepare("insert or ignore into secret values ('erasure', ?)");
  let key = readKey.get();
  if (!key) {
    keepKey.run(randomBytes(32));
    key = readKey.get()!;
  }
  const hash = (kind: Kind, name: string, more = ''): string =>
    createHmac('sha256', key)
      .update(JSON.stringify([kind, name, more]))
      .digest('base64url');
  const insert = db.prepare(
    'insert or ignore into erasure (site_id, shop, name, at) values (?, ?, ?, ?)',
  );
  const first = db
    .prepare<[string, string, string, number], number | null>(
      "select min(at) from erasure where site_id = ? and name = ? and shop in ('', ?) and at > ?",
    )
    .pluck();
  const moments = db
    .prepare<[string, string], number>(
      'select distinct at from erasure where site_id = ? and name = ?',
    )
    .pluck();
  const any = db
    .prepare<[string], number>('select exists (select 1 from erasure where site_id = ?)')
    .pluck();
  const pseudonym = (kind: Kind, name: string, at: number): string =>
    purchases.erasedName(hash(kind, name, String(at)));
  return {
    has: (site) => any.get(site) === 1,
    add: (site, kind, name, { shop, at }) =>
      void insert.run(site, shop ?? '', hash(kind, name), at),
    inPlaceOf: (site, shop, kind, name, at) => {
      const erasedAt = first.get(site, hash(kind, name), shop, at);
      return erasedAt === null || erasedAt === undefined ? name : pseudonym(kind, name, erasedAt);
    },
    allOf: (site, kind, name) => [
      name,
      ...moments.all(site, hash(kind, name)).map((at) => pseudonym(kind, name, at)),
    ],
  };
}

/** The names in an event, each with its kind. */
export const namesIn = ({
  email,
  formerEmail,
  visitor,
}: Pick<model.ShopEvent, 'email' | 'formerEmail' | 'visitor'>): [Kind, string][] => [
  ...[email, formerEmail].flatMap((one): [Kind, string][] =>
    one === null ? [] : [['email', one]],
  ),
  ...(visitor === null ? [] : [['visitor', visitor] as [Kind, string]]),
];

/** Whether a text names somebody: by their address with nothing of an address around it, or by their id as a whole value. */
export function mentions(text: string, kind: Kind, name: string): boolean {
  const plain = text
    .replace(/\\+u([\da-f]{4})/gi, (_, code: string) => String.fromCharCode(parseInt(code, 16)))
    .replace(/%40/g, '@');
  if (kind === 'visitor')
    return plain.includes(JSON.stringify(name)) || plain.includes(`\\"${name}\\"`);
  const folded = purchases.foldEmail(plain);
  const isPart = (character: string | undefined): boolean =>
    character !== undefined && /[\p{L}\p{N}._%+@-]/u.test(character);
  for (let at = folded.indexOf(name); at !== -1; at = folded.indexOf(name, at + 1)) {
    const after = folded.slice(at + name.length);
    // A full stop behind an address may end a sentence.
    const isEnd = !isPart(after[0]) || (after.startsWith('.') && !isPart(after[1]));
    if (!isPart(folded[at - 1]) && isEnd) return true;
  }
  return false;
}
