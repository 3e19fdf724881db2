import { createHash, randomBytes } from 'node:crypto';
import type { model } from '@kleidon/core';
import type { Db } from './database.ts';

/** Someone who has signed in at a gateway. */
export interface SessionRecord {
  readonly visitor: model.Visitor;
  /** What the identity provider signed, to sign out there. */
  readonly idToken: string;
}

/** A session as operators see it; nothing in it lets one pose as the visitor. */
export interface SessionListed {
  readonly session: string;
  readonly visitor: string;
  readonly title: string;
  readonly summary: string;
  readonly since: string;
  readonly seen: string;
  readonly until: string;
}

/** How long a session lasts, in milliseconds: at the most, and without a request. */
export interface SessionTimes {
  readonly lifetime: number;
  readonly idle: number;
}

/** Sessions of signed-in visitors. The browser has a secret, the database only its hash. */
export interface SessionStore {
  /** Begins a session, and ends the one that the browser had before. Gives the new secret. */
  begin(
    site: string,
    session: SessionRecord,
    times: SessionTimes,
    at: number,
    before: string | null,
  ): string;
  /** @param isLooking nobody asks: the session is not seen to be used */
  find(
    site: string,
    secret: string,
    times: SessionTimes,
    at: number,
    isLooking?: boolean,
  ): SessionRecord | null;
  /** Saves the times of last use. Requests do not write: they must not wait for the disk or fail. */
  writeSeen(): void;
  end(site: string, secret: string): void;
  /** Ends every session of a visitor; how many there were. */
  endAll(site: string, visitorId: string): number;
  /** Ends one by the name that operators see; whether there was one. */
  endNamed(site: string, session: string): boolean;
  list(site: string, times: SessionTimes, at: number, limit: number): SessionListed[];
  count(site: string, times: SessionTimes, at: number): number;
}

interface Row {
  readonly visitor: string;
  readonly id_token: string;
  readonly seen_at: number;
}

/** Whoever goes from page to page is not written down at each of them. */
const SEEN_EVERY = 60_000;

/** The statements on sessions. Times are milliseconds since 1970. */
export function sessionStore(db: Db): SessionStore {
  const insert = db.prepare(
    `insert into session (hash, site_id, visitor_id, visitor, id_token, begun_at, seen_at, until)
     values (?, ?, ?, ?, ?, ?, ?, ?)`,
  );
  const find = db.prepare<[string, string, number], Row>(
    'select visitor, id_token, seen_at from session where hash = ? and site_id = ? and until > ?',
  );
  const see = db.prepare('update session set seen_at = ? where hash = ?');
  const end = db.prepare('delete from session where hash = ? and site_id = ?');
  const endAll = db.prepare('delete from session where site_id = ? and visitor_id = ?');
  const forget = db.prepare(
    'delete from session where site_id = ? and (until <= ? or seen_at <= ?)',
  );
  const list = db.prepare<
    [string, number, number, number],
    { hash: string; visitor: string; begun_at: number; seen_at: number; until: number }
  >(
    `select hash, visitor, begun_at, seen_at, until from session
     where site_id = ? and until > ? and seen_at > ? order by seen_at desc limit ?`,
  );
  const endNamed = db.prepare('delete from session where site_id = ? and substr(hash, 1, ?) = ?');
  const count = db.prepare<[string, number, number], { count: number }>(
    'select count(*) as count from session where site_id = ? and until > ? and seen_at > ?',
  );
  /** Unsaved times of last use, by session. */
  const seen = new Map<string, number>();
  const writeSeen = db.transaction(() => {
    for (const [hash, at] of seen) see.run(at, hash);
  });
  const write = (): void => {
    if (seen.size === 0) return;
    writeSeen();
    seen.clear();
  };
  /** If saving fails, operators see slightly older times. */
  const tryToWrite = (): void => {
    try {
      write();
    } catch {
      // The scheduler retries and logs the error.
    }
  };
  return {
    writeSeen: write,
    begin: db.transaction(
      (
        site: string,
        { visitor, idToken }: SessionRecord,
        times: SessionTimes,
        at: number,
        before: string | null,
      ) => {
        write();
        forget.run(site, at, at - times.idle);
        // A secret that was there before the sign-in may be known to someone else.
        if (before !== null) end.run(hashOf(before), site);
        const secret = randomBytes(32).toString('base64url');
        const who = JSON.stringify(visitor);
        insert.run(hashOf(secret), site, visitor.id, who, idToken, at, at, at + times.lifetime);
        return secret;
      },
    ),
    find: (site, secret, { idle }, at, isLooking = false) => {
      const hash = hashOf(secret);
      const row = find.get(hash, site, at);
      const last = row && Math.max(row.seen_at, seen.get(hash) ?? 0);
      if (!row || last! <= at - idle) return null;
      if (!isLooking && at - last! > Math.min(SEEN_EVERY, idle / 2)) seen.set(hash, at);
      return { visitor: JSON.parse(row.visitor) as model.Visitor, idToken: row.id_token };
    },
    end: (site, secret) => void end.run(hashOf(secret), site),
    endAll: (site, visitorId) => endAll.run(site, visitorId).changes,
    endNamed: (site, session) => endNamed.run(site, NAME_LENGTH, session).changes > 0,
    list: (site, { idle }, at, limit) => {
      tryToWrite();
      const rows = list.all(site, at, at - idle, limit);
      return rows.map(({ hash, visitor, begun_at, seen_at, until }) => {
        const { id, title, summary } = JSON.parse(visitor) as model.Visitor;
        return {
          session: hash.slice(0, NAME_LENGTH),
          visitor: id!,
          title,
          summary,
          since: new Date(begun_at).toISOString(),
          seen: new Date(seen_at).toISOString(),
          until: new Date(Math.min(until, seen_at + idle)).toISOString(),
        };
      });
    },
    count: (site, { idle }, at) => {
      tryToWrite();
      return count.get(site, at, at - idle)!.count;
    },
  };
}

/** As much of a hash as tells sessions apart. */
const NAME_LENGTH = 16;

const hashOf = (secret: string): string => createHash('sha256').update(secret).digest('hex');
