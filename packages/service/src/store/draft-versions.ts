import { deflateSync, inflateSync } from 'node:zlib';
import type { Db } from './database.ts';
import type { ListedFile } from './lists.ts';

/** A site file that is being worked on; each save gives it the next version. */
export interface DraftRecord {
  readonly site: string;
  readonly version: number;
  readonly text: string;
  readonly savedAt: string;
}

/** A version of a draft as it is listed. */
export interface DraftVersion {
  readonly version: number;
  readonly savedAt: string;
  /** What was changed, a sentence each; none for the first one. */
  readonly says: readonly string[];
}

/** A version of a draft with its text, and the lists that stood beside it. */
export interface DraftVersionWithText extends DraftVersion {
  readonly text: string;
  readonly lists: readonly ListedFile[];
}

/** The history of drafts: each save, as long as it is kept. */
export interface DraftVersions {
  /** Keeps what a draft is now, within the transaction that saves it. */
  keep(draft: DraftRecord, says: readonly string[], packed: Uint8Array): void;
  /** The latest first. */
  versions(site: string): DraftVersion[];
  version(site: string, version: number): DraftVersionWithText | null;
}

/** Of each site, this many versions are kept. */
const KEPT = 200;

interface Row {
  readonly version: number;
  readonly savedAt: string;
  readonly says: string;
  /** Deflated, but for those that were there before the history was. */
  readonly text: string | Buffer;
}

/** The text of a draft as the history keeps it. Takes milliseconds for each megabyte. */
export const packedText = (text: string): Uint8Array => deflateSync(text);

/** The statements on the history of drafts. */
export function draftVersions(db: Db): DraftVersions {
  const add = db.prepare(
    'insert into draft_version (site_id, version, text, says, saved_at) values (?, ?, ?, ?, ?)',
  );
  const addLists = db.prepare(
    `insert into draft_version_list (site_id, version, name, hash)
     select site_id, ?, name, hash from draft_list where site_id = ?`,
  );
  const tooOld = ['draft_version_list', 'draft_version'].map((table) =>
    db.prepare<[string, number]>(`delete from ${table} where site_id = ? and version <= ?`),
  );
  const all = db.prepare<[string], Omit<Row, 'text'>>(
    `select version, saved_at as savedAt, says from draft_version
     where site_id = ? order by version desc`,
  );
  const one = db.prepare<[string, number], Row>(
    `select version, saved_at as savedAt, says, text from draft_version
     where site_id = ? and version = ?`,
  );
  const lists = db.prepare<[string, number], ListedFile>(
    'select name, hash from draft_version_list where site_id = ? and version = ? order by name',
  );
  const listed = ({ version, savedAt, says }: Omit<Row, 'text'>): DraftVersion => ({
    version,
    savedAt,
    says: JSON.parse(says) as string[],
  });
  return {
    keep: ({ site, version, savedAt }, says, packed) => {
      add.run(site, version, packed, JSON.stringify(says), savedAt);
      addLists.run(version, site);
      for (const statement of tooOld) statement.run(site, version - KEPT);
    },
    versions: (site) => all.all(site).map(listed),
    version: (site, version) => {
      const row = one.get(site, version);
      if (!row) return null;
      const { text } = row;
      return {
        ...listed(row),
        text: typeof text === 'string' ? text : inflateSync(text).toString('utf8'),
        lists: lists.all(site, version),
      };
    },
  };
}
