import { closeSync, openSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';

/** Another service works on a data folder. */
class FolderInUse extends Error {
  constructor(folder: string) {
    super(`another service works on ${folder}`);
  }
}

/**
 * Keeps a data folder for one service. The operating system lets go of the lock when the process ends, however
 * it does.
 * @returns lets go of it
 * @throws FolderInUse
 */
export function lockFolder(folder: string): () => void {
  const file = join(folder, 'lock.sqlite');
  closeSync(openSync(file, 'a', 0o600));
  const lock = new Database(file, { timeout: 0 });
  try {
    lock.pragma('journal_mode = MEMORY');
    lock.exec('begin exclusive');
  } catch (error) {
    lock.close();
    if ((error as { code?: string }).code?.startsWith('SQLITE_BUSY')) throw new FolderInUse(folder);
    throw error;
  }
  return () => lock.close();
}
