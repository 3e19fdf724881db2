import type { decisions } from '@kleidon/core';
import type { Db } from './database.ts';

/** How a request at a gateway ended; `failed` where the website did not answer it. */
export type GatewayOutcome = decisions.DecisionOutcome | 'failed';

/** What a gateway saw since it last wrote it down. */
export interface Seen {
  readonly misses: ReadonlyMap<string, SeenMiss>;
  readonly uses: ReadonlyMap<string, SeenUse>;
  /** Requests by outcome, minute by minute since 1970: `minute outcome`. */
  readonly traffic: ReadonlyMap<string, number>;
}

export interface SeenUse {
  count: number;
  /** Milliseconds since 1970. */
  last: number;
}

export interface SeenMiss extends SeenUse {
  readonly first: number;
  referrer: string | null;
}

/** An address that was asked for and not found. */
export interface MissRecord {
  readonly address: string;
  readonly count: number;
  readonly first: string;
  readonly last: string;
  readonly referrer: string | null;
}

export interface UseRecord {
  readonly redirect: string;
  readonly count: number;
  readonly last: string;
}

export interface TrafficRecord {
  /** The moment at which the minutes counted begin. */
  readonly from: string;
  readonly outcome: GatewayOutcome;
  readonly count: number;
}

export const MISS_ORDERS = ['count', 'last', 'address'] as const;
export type MissOrder = (typeof MISS_ORDERS)[number];

/** What the gateways of a service saw, without anything about who it was. */
export interface RecordStore {
  add(site: string, seen: Seen): void;
  /** Drops what is older than the time to keep (in milliseconds, as of `at`), and the misses beyond the most there may be: those of one request first, then those longest ago. */
  forget(site: string, at: number, retention: number): void;
  misses(
    site: string,
    order: MissOrder,
    skip: number,
    limit: number,
    search: string,
  ): { found: number; rows: MissRecord[] };
  dropMiss(site: string, address: string): boolean;
  uses(site: string): UseRecord[];
  /** Requests by outcome since a moment, in steps of so many minutes. */
  traffic(site: string, since: number, step: number): TrafficRecord[];
}

/** Whoever tries addresses by the million must not fill the disk. Those that were asked for once go first. */
const MOST_MISSES = 20_000;
/** Requests are counted by the minute for as long as the plot shows them. */
const TRAFFIC_KEPT = 7 * 86_400_000;
const MINUTE = 60_000;

const ORDER: Readonly<Record<MissOrder, string>> = {
  count: 'count desc, last_at desc',
  last: 'last_at desc',
  address: 'address',
};

/** The statements on what gateways saw. */
export function recordStore(db: Db): RecordStore {
  const addMiss = db.prepare(
    `insert into miss (site_id, address, count, first_at, last_at, referrer) values (?, ?, ?, ?, ?, ?)
     on conflict do update set count = count + excluded.count, last_at = excluded.last_at,
       referrer = coalesce(excluded.referrer, referrer)`,
  );
  const addUse = db.prepare(
    `insert into redirect_use (site_id, redirect, count, last_at) values (?, ?, ?, ?)
     on conflict do update set count = count + excluded.count, last_at = excluded.last_at`,
  );
  const addTraffic = db.prepare(
    `insert into traffic (site_id, minute, outcome, count) values (?, ?, ?, ?)
     on conflict do update set count = count + excluded.count`,
  );
  const oldMisses = db.prepare('delete from miss where site_id = ? and last_at < ?');
  const oldUses = db.prepare('delete from redirect_use where site_id = ? and last_at < ?');
  const oldTraffic = db.prepare('delete from traffic where site_id = ? and minute < ?');
  const tooMany = db.prepare(
    `delete from miss where rowid in (
       select rowid from miss where site_id = ? order by count > 1 desc, last_at desc limit -1 offset ?)`,
  );
  const misses = Object.fromEntries(
    MISS_ORDERS.map((order) => [
      order,
      db.prepare<
        [string, string, number, number],
        { address: string; count: number; first_at: number; last_at: number; referrer: string }
      >(
        `select address, count, first_at, last_at, referrer from miss
         where site_id = ? and instr(lower(address), ?) > 0 order by ${ORDER[order]} limit ? offset ?`,
      ),
    ]),
  );
  const missCount = db.prepare<[string, string], { count: number }>(
    'select count(*) as count from miss where site_id = ? and instr(lower(address), ?) > 0',
  );
  const dropMiss = db.prepare('delete from miss where site_id = ? and address = ?');
  const uses = db.prepare<[string], { redirect: string; count: number; last_at: number }>(
    'select redirect, count, last_at from redirect_use where site_id = ? order by count desc',
  );
  const traffic = db.prepare<
    [number, number, string, number],
    { step: number; outcome: GatewayOutcome; count: number }
  >(
    `select minute / ? * ? as step, outcome, sum(count) as count from traffic
     where site_id = ? and minute >= ? group by step, outcome order by step`,
  );
  const iso = (at: number): string => new Date(at).toISOString();
  return {
    add: db.transaction((site: string, seen: Seen) => {
      for (const [address, { count, first, last, referrer }] of seen.misses)
        addMiss.run(site, address, count, first, last, referrer);
      // Counted at each writing: between two of them, thousands may come.
      if (seen.misses.size > 0) tooMany.run(site, MOST_MISSES);
      for (const [redirect, { count, last }] of seen.uses) addUse.run(site, redirect, count, last);
      for (const [key, count] of seen.traffic) {
        const [minute, outcome] = key.split(' ') as [string, string];
        addTraffic.run(site, Number(minute), outcome, count);
      }
    }),
    forget: db.transaction((site: string, at: number, retention: number) => {
      oldMisses.run(site, at - retention);
      oldUses.run(site, at - retention);
      oldTraffic.run(site, Math.floor((at - TRAFFIC_KEPT) / MINUTE));
    }),
    misses: (site, order, skip, limit, search) => {
      const wanted = search.toLowerCase();
      return {
        found: missCount.get(site, wanted)!.count,
        rows: misses[order]!.all(site, wanted, limit, skip).map((row) => ({
          address: row.address,
          count: row.count,
          first: iso(row.first_at),
          last: iso(row.last_at),
          referrer: row.referrer,
        })),
      };
    },
    dropMiss: (site, address) => dropMiss.run(site, address).changes > 0,
    uses: (site) =>
      uses
        .all(site)
        .map(({ redirect, count, last_at }) => ({ redirect, count, last: iso(last_at) })),
    traffic: (site, since, step) =>
      traffic
        .all(step, step, site, Math.floor(since / MINUTE))
        .map(({ step: minute, outcome, count }) => ({
          from: iso(minute * MINUTE),
          outcome,
          count,
        })),
  };
}
