import { randomBytes } from 'node:crypto';
import { join } from 'node:path';
import { EncryptJWT, jwtDecrypt } from 'jose';
import { keyFile, KeyProblem } from './key-file.ts';

/** Keeps what the service has to remember between two steps of a sign-in with the browser, closed to it. */
export interface Seal {
  /**
   * An encrypted token (RFC 7516) of some fields that lasts so many seconds.
   * @param purpose what it is for, and at which gateway: it opens for nothing else
   */
  close(
    fields: Readonly<Record<string, unknown>>,
    purpose: string,
    seconds: number,
  ): Promise<string>;
  /** What is in it; null for what did not come from here, is for another purpose, or has run out. */
  open(token: string, purpose: string): Promise<Readonly<Record<string, unknown>> | null>;
}

const KEY_LENGTH = 32;

/**
 * The seal of this service; its key is made the first time and kept in the data folder.
 * @throws KeyProblem where the file holds no key
 */
export function sealOf(folder: string): Seal {
  const file = join(folder, 'sign-in-key');
  const key = new Uint8Array(keyFile(file, () => randomBytes(KEY_LENGTH)));
  if (key.length !== KEY_LENGTH)
    throw new KeyProblem(file, `it has ${key.length} bytes, and a key has ${KEY_LENGTH}`);
  return {
    close: (fields, purpose, seconds) =>
      new EncryptJWT({ ...fields })
        .setProtectedHeader({ alg: 'dir', enc: 'A256GCM' })
        .setAudience(purpose)
        .setExpirationTime(Math.floor(Date.now() / 1000) + seconds)
        .encrypt(key),
    open: async (token, purpose) => {
      try {
        const { payload } = await jwtDecrypt(token, key, {
          keyManagementAlgorithms: ['dir'],
          contentEncryptionAlgorithms: ['A256GCM'],
          requiredClaims: ['exp'],
          audience: purpose,
        });
        return payload;
      } catch {
        return null;
      }
    },
  };
}
