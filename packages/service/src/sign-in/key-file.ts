import {
  closeSync,
  existsSync,
  fsyncSync,
  openSync,
  readFileSync,
  renameSync,
  writeSync,
} from 'node:fs';

/** A file that should hold a key of the service holds something else. */
export class KeyProblem extends Error {
  constructor(file: string, why: string) {
    super(
      `${file} holds no key: ${why}. Restore it from a backup, or remove it: a new one is made, and all who are signed in sign in again.`,
    );
  }
}

/**
 * The content of a key file, which is made the first time: as a whole or not at all, and for the owner alone.
 * @param make gives the content of a new one
 */
export function keyFile(file: string, make: () => Buffer): Buffer {
  if (!existsSync(file)) {
    const unfinished = `${file}.new`;
    const descriptor = openSync(unfinished, 'w', 0o600);
    try {
      writeSync(descriptor, make());
      fsyncSync(descriptor);
    } finally {
      closeSync(descriptor);
    }
    renameSync(unfinished, file);
  }
  return readFileSync(file);
}
