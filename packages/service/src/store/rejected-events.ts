import type { Db } from './database.ts';

/** Something that a shop told and that could not be understood. */
export interface RejectedEvent {
  readonly shop: string;
  readonly id: string;
  /** What came, as JSON. */
  readonly body: string;
  readonly problem: string;
  /** Milliseconds since 1970. */
  readonly receivedAt: number;
}

/** What shops told and could not be understood, until it can be. */
export interface RejectedEvents {
  /** Keeps what could not be understood; what comes again takes the place of what was there. */
  keep(site: string, rejected: RejectedEvent): void;
  /** The last of a site, the newest first. */
  list(site: string, limit: number): RejectedEvent[];
  count(site: string): number;
  /** Those that are asked for by their shop, and id where one is named. */
  find(site: string, shop: string | null, id: string | null): RejectedEvent[];
  /** Forgets one that is of no use. @returns whether it was there */
  drop(site: string, shop: string, id: string): boolean;
}

/** A shop that tells nonsense must not fill the disk. */
const MOST_KEPT = 1000;

const COLUMNS = 'shop, id, body, problem, received_at as receivedAt';

/** The statements on what could not be understood. */
export function rejectedEvents(db: Db): RejectedEvents {
  const keep = db.prepare(
    `insert into rejected_event (site_id, shop, id, body, problem, received_at) values (?, ?, ?, ?, ?, ?)
     on conflict do update set body = excluded.body, problem = excluded.problem,
       received_at = excluded.received_at`,
  );
  const tooMany = db.prepare(
    `delete from rejected_event where site_id = ? and rowid not in
       (select rowid from rejected_event where site_id = ? order by received_at desc limit ?)`,
  );
  const list = db.prepare<[string, number], RejectedEvent>(
    `select ${COLUMNS} from rejected_event where site_id = ? order by received_at desc, id limit ?`,
  );
  const count = db
    .prepare<[string], number>('select count(*) from rejected_event where site_id = ?')
    .pluck();
  const find = db.prepare<{ site: string; shop: string | null; id: string | null }, RejectedEvent>(
    `select ${COLUMNS} from rejected_event
     where site_id = @site and (@shop is null or shop = @shop) and (@id is null or id = @id) order by received_at, id`,
  );
  const drop = db.prepare('delete from rejected_event where site_id = ? and shop = ? and id = ?');
  return {
    keep: db.transaction<RejectedEvents['keep']>((site, rejected) => {
      const { shop, id, body, problem, receivedAt } = rejected;
      keep.run(site, shop, id, body, problem, receivedAt);
      tooMany.run(site, site, MOST_KEPT);
    }),
    list: (site, limit) => list.all(site, limit),
    count: (site) => count.get(site)!,
    find: (site, shop, id) => find.all({ site, shop, id }),
    drop: (site, shop, id) => drop.run(site, shop, id).changes > 0,
  };
}
