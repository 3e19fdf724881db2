import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { MIGRATIONS } from './migrations.ts';

export type Db = Database.Database;

/**
 * Opens the database in a folder and brings it up to date.
 *
 * A write that was answered is on the disk: write-ahead log, flushed at each commit.
 * @throws Error when the folder can't be written, or the database is newer than this version
 */
export function openDatabase(folder: string): Db {
  mkdirSync(folder, { recursive: true });
  const db = new Database(join(folder, 'kleidon.sqlite'));
  db.pragma('journal_mode = WAL');
  db.pragma('synchronous = FULL');
  db.pragma('foreign_keys = ON');
  db.pragma('busy_timeout = 5000');
  migrate(db);
  return db;
}

function migrate(db: Db): void {
  const version = db.pragma('user_version', { simple: true }) as number;
  if (version > MIGRATIONS.length) {
    db.close();
    throw new Error(
      `The database was written by a newer version of Kleidon (its format is ${version}).`,
    );
  }
  MIGRATIONS.slice(version).forEach((step, position) => {
    db.transaction(() => {
      db.exec(step);
      db.pragma(`user_version = ${version + position + 1}`);
    })();
  });
}
