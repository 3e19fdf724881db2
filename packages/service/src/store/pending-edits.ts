import type { Db } from './database.ts';

/** An edit that is pending with others. */
export interface PendingEdit {
  readonly number: number;
  /** As JSON. */
  readonly edit: string;
}

/** Pending edits, in sets of which each belongs to someone's work on a site. */
export interface PendingEdits {
  list(site: string, changes: string): PendingEdit[];
  /** Adds an edit behind the others; null when the set is full. */
  add(site: string, changes: string, edit: string, at: Date): number | null;
  /** Puts another edit in the place of one. */
  replace(site: string, changes: string, number: number, edit: string): void;
  /** Whether there was one to drop. */
  drop(site: string, changes: string, number: number): boolean;
  dropAll(site: string, changes: string): void;
}

const MOST_EDITS = 1000;
/** Work that nobody came back to is forgotten. */
const KEPT_DAYS = 60;

/** The statements on pending edits. */
export function pendingEdits(db: Db): PendingEdits {
  const all = db.prepare<[string, string], PendingEdit>(
    'select number, edit from pending_edit where site_id = ? and changes_id = ? order by number',
  );
  const count = db.prepare<[string, string], { count: number; last: number | null }>(
    'select count(*) as count, max(number) as last from pending_edit where site_id = ? and changes_id = ?',
  );
  const insert = db.prepare(
    'insert into pending_edit (site_id, changes_id, number, edit, made_at) values (?, ?, ?, ?, ?)',
  );
  const update = db.prepare(
    'update pending_edit set edit = ? where site_id = ? and changes_id = ? and number = ?',
  );
  const remove = db.prepare(
    'delete from pending_edit where site_id = ? and changes_id = ? and number = ?',
  );
  const removeAll = db.prepare('delete from pending_edit where site_id = ? and changes_id = ?');
  const forget = db.prepare(
    `delete from pending_edit where (site_id, changes_id) in (
       select site_id, changes_id from pending_edit
       group by site_id, changes_id having max(made_at) < ?)`,
  );

  return {
    list: (site, changes) => all.all(site, changes),
    add: db.transaction((site: string, changes: string, edit: string, at: Date) => {
      forget.run(new Date(at.getTime() - KEPT_DAYS * 86_400_000).toISOString());
      const { count: there, last } = count.get(site, changes)!;
      if (there >= MOST_EDITS) return null;
      const number = (last ?? 0) + 1;
      insert.run(site, changes, number, edit, at.toISOString());
      return number;
    }),
    replace: (site, changes, number, edit) => void update.run(edit, site, changes, number),
    drop: (site, changes, number) => remove.run(site, changes, number).changes > 0,
    dropAll: (site, changes) => void removeAll.run(site, changes),
  };
}
