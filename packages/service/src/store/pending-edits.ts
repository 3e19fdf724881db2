import type { Db } from './database.ts';

/** An edit that is pending with others. */
export interface PendingEdit {
  /** Never used again, even after the edit is gone. */
  readonly number: number;
  /** As JSON. */
  readonly edit: string;
}

/** Pending edits, in sets of which each belongs to someone's work on a site. */
export interface PendingEdits {
  list(site: string, changes: string): PendingEdit[];
  /**
   * Adds an edit behind the others; false when the set is full.
   * @param instead the number of the edit that it replaces
   */
  add(site: string, changes: string, edit: string, at: Date, instead: number | null): boolean;
  /** Whether there was one to drop. */
  drop(site: string, changes: string, number: number): boolean;
  dropAll(site: string, changes: string): void;
  /** Removes saved edits. `edit` updates the remaining ones. */
  saved(
    site: string,
    changes: string,
    numbers: readonly number[],
    edit: (edit: string) => string,
  ): void;
}

const MOST_EDITS = 1000;
/** Work that nobody came back to is forgotten. */
const KEPT_DAYS = 60;

/** The statements on pending edits. */
export function pendingEdits(db: Db): PendingEdits {
  const all = db.prepare<[string, string], PendingEdit>(
    'select number, edit from pending_edit where site_id = ? and changes_id = ? order by number',
  );
  const count = db.prepare<[string, string], { count: number }>(
    'select count(*) as count from pending_edit where site_id = ? and changes_id = ?',
  );
  const insert = db.prepare(
    'insert into pending_edit (site_id, changes_id, edit, made_at) values (?, ?, ?, ?)',
  );
  const update = db.prepare('update pending_edit set edit = ? where number = ?');
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
    add: db.transaction(
      (site: string, changes: string, edit: string, at: Date, instead: number | null) => {
        forget.run(new Date(at.getTime() - KEPT_DAYS * 86_400_000).toISOString());
        if (instead !== null) remove.run(site, changes, instead);
        if (count.get(site, changes)!.count >= MOST_EDITS) return false;
        insert.run(site, changes, edit, at.toISOString());
        return true;
      },
    ),
    drop: (site, changes, number) => remove.run(site, changes, number).changes > 0,
    dropAll: (site, changes) => void removeAll.run(site, changes),
    saved: (site, changes, numbers, edit) => {
      for (const number of numbers) remove.run(site, changes, number);
      for (const left of all.all(site, changes)) update.run(edit(left.edit), left.number);
    },
  };
}
