import { chmodSync, existsSync, mkdirSync } from 'node:fs';
import { dirname, join } from 'node:path';
import Database from 'better-sqlite3';
import { MIGRATIONS } from './migrations.ts';

const FILE = 'kleidon.sqlite';

export type Db = Database.Database;

/** How long a write may wait for another program, in milliseconds; everyone waits meanwhile. */
const LONGEST_WAIT = 20;
/** As long as the write-ahead log stays once all of it is in the database, in bytes. */
const MOST_LOGGED = 64_000_000;
/** As much of the file as is read in place, in bytes. */
const MOST_MAPPED = 4_000_000_000;

/** Makes the folder of the data, for the owner alone; one that is there already is closed to others. */
export function makeDataFolder(folder: string): void {
  makeFolder(folder);
  chmodSync(folder, 0o700);
}

/** With the folders above it. Node.js does that too, and never ends in one such as /proc, where none can be made. */
function makeFolder(folder: string): void {
  if (existsSync(folder)) return;
  makeFolder(dirname(folder));
  mkdirSync(folder, { mode: 0o700 });
}

/**
 * Opens the database in a folder and brings it up to date.
 *
 * A write that was answered is on the disk: write-ahead log, flushed at each commit.
 * @throws Error when the folder can't be written, or the database is newer than this version
 */
export function openDatabase(folder: string): Db {
  const file = join(folder, FILE);
  const db = new Database(file);
  // What is in it is for the service alone; SQLite gives the files beside it the same mode.
  chmodSync(file, 0o600);
  // Only of a new database; of another one, nothing is given back to the disk.
  db.pragma('auto_vacuum = INCREMENTAL');
  db.pragma('journal_mode = WAL');
  db.pragma(`journal_size_limit = ${MOST_LOGGED}`);
  db.pragma('synchronous = FULL');
  db.pragma('foreign_keys = ON');
  db.pragma('busy_timeout = 5000');
  // What is in the cache of the system is read without a copy: a million purchases are looked up in half the time.
  db.pragma(`mmap_size = ${MOST_MAPPED}`);
  migrate(db);
  // Another program that holds a lock must not stop the visitors of all sites: a write is refused instead.
  db.pragma(`busy_timeout = ${LONGEST_WAIT}`);
  return db;
}

/** Opens the database only to read it, in another thread of the service that has opened it. */
export function readDatabase(folder: string): Db {
  const db = new Database(join(folder, FILE), { readonly: true });
  db.pragma(`mmap_size = ${MOST_MAPPED}`);
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
