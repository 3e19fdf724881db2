import type { Db } from './database.ts';

/** How much of the disk the records take, in bytes. */
export interface StorageStore {
  /** What people wrote for a site: its drafts, releases, lists and pending changes. */
  ofSite(site: string): number;
  /** The whole database, without what is free in it. */
  ofAll(): number;
  /** Gives some of what is free in the database back to the disk; takes milliseconds. */
  giveBack(): void;
}

/** Pages of the database that are given back at once. */
const GIVEN_BACK = 500;

/** The columns with texts that people wrote, none of which is read to tell its length. */
const TEXTS = [
  ['draft', 'text'],
  ['draft_version', 'text'],
  ['release', 'text'],
  ['scheduled_release', 'text'],
  ['pending_edit', 'edit'],
] as const;
const LISTS = ['draft_list', 'release_list', 'draft_version_list', 'scheduled_release_list'];

export function storageStore(db: Db): StorageStore {
  const sums = TEXTS.map(
    ([table, column]) =>
      `select octet_length(${column}) as size from ${table} where site_id = @site`,
  );
  const hashes = LISTS.map((table) => `select hash from ${table} where site_id = @site`);
  const ofSite = db.prepare<{ site: string }, { size: number | null }>(
    `select sum(size) as size from (${sums.join(' union all ')} union all
     select octet_length(text) from list_text where hash in (${hashes.join(' union ')}))`,
  );
  const pragma = (name: string): number => db.pragma(name, { simple: true }) as number;
  return {
    ofSite: (site) => ofSite.get({ site })?.size ?? 0,
    ofAll: () => (pragma('page_count') - pragma('freelist_count')) * pragma('page_size'),
    giveBack: () => void db.pragma(`incremental_vacuum(${GIVEN_BACK})`),
  };
}
