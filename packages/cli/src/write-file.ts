import {
  closeSync,
  fchmodSync,
  fchownSync,
  fsyncSync,
  openSync,
  realpathSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { EXIT, Stop } from './exit.ts';
import { readText } from './read-text.ts';

/** An older temporary file was left by a command that was killed, in milliseconds. */
const LEFT_BEHIND = 60_000;
const PATIENCE = 5_000;
const PAUSE = 20;

/**
 * Writes a file atomically: first to a temporary file, which then replaces it. Keeps mode, owner and links. Commands
 * that write the same file wait for each other.
 *
 * @param before the content when it was read. If the file has changed since, it is not written
 */
export function writeFile(file: string, text: string, before?: string | null): void {
  if (file === '-')
    throw new Stop(EXIT.wrongUse, "Standard input can't be written to. Name a file.");
  try {
    replace(isThere(file) ? realpathSync(file) : file, text, before);
  } catch (error) {
    if (error instanceof Stop) throw error;
    throw new Stop(
      EXIT.wrongUse,
      `The file ${file} can't be written: ${(error as Error).message.replace(/, \w+ '.*/, '')}.`,
    );
  }
}

function replace(file: string, text: string, before: string | null | undefined): void {
  const known = isThere(file) ? statSync(file) : null;
  if (known && !known.isFile()) {
    // A device such as /dev/stdout is written to directly.
    writeFileSync(file, text);
    return;
  }
  // Renaming would also replace a file without write permission.
  if (known) closeSync(openSync(file, 'r+'));
  const beside = join(dirname(file), `.${basename(file)}.being-written`);
  const descriptor = openAlone(beside, file);
  try {
    try {
      if (before !== undefined && contentOf(file) !== before)
        throw new Stop(
          EXIT.failed,
          `${file} was changed since it was read. Nothing was written. Run the command again.`,
        );
      if (known) {
        fchmodSync(descriptor, known.mode);
        if (process.getuid?.() === 0) fchownSync(descriptor, known.uid, known.gid);
      }
      writeFileSync(descriptor, text);
      fsyncSync(descriptor);
    } finally {
      closeSync(descriptor);
    }
    renameSync(beside, file);
  } catch (error) {
    rmSync(beside, { force: true });
    throw error;
  }
  syncFolder(dirname(file));
}

/** Creates the temporary file. It also serves as a lock. */
function openAlone(beside: string, file: string): number {
  const until = Date.now() + PATIENCE;
  for (;;) {
    try {
      return openSync(beside, 'wx', 0o666);
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
      const age = Date.now() - (statSync(beside, { throwIfNoEntry: false })?.mtimeMs ?? 0);
      if (age > LEFT_BEHIND) rmSync(beside, { force: true });
      else if (Date.now() > until)
        throw new Stop(
          EXIT.failed,
          `Another command is writing ${file}. If none is, remove ${beside}.`,
        );
      else Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, PAUSE);
    }
  }
}

function syncFolder(folder: string): void {
  const descriptor = openSync(folder, 'r');
  try {
    fsyncSync(descriptor);
  } catch {
    // Some file systems sync no folders.
  } finally {
    closeSync(descriptor);
  }
}

const isThere = (file: string): boolean => statSync(file, { throwIfNoEntry: false }) !== undefined;

const contentOf = (file: string): string | null => (isThere(file) ? readText(file) : null);
