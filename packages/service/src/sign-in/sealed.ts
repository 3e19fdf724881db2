import { randomBytes } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { EncryptJWT, jwtDecrypt } from 'jose';

/** Keeps what the service has to remember between two steps of a sign-in with the browser, closed to it. */
export interface Seal {
  /** An encrypted token (RFC 7516) of some fields that lasts so many seconds. */
  close(fields: Readonly<Record<string, unknown>>, seconds: number): Promise<string>;
  /** What is in it; null for what did not come from here, or has run out. */
  open(token: string): Promise<Readonly<Record<string, unknown>> | null>;
}

/** The seal of this service; its key is made the first time and kept in the data folder. */
export function sealOf(folder: string): Seal {
  const file = join(folder, 'sign-in-key');
  if (!existsSync(file)) writeFileSync(file, randomBytes(32), { mode: 0o600 });
  const key = new Uint8Array(readFileSync(file));
  return {
    close: (fields, seconds) =>
      new EncryptJWT({ ...fields })
        .setProtectedHeader({ alg: 'dir', enc: 'A256GCM' })
        .setExpirationTime(Math.floor(Date.now() / 1000) + seconds)
        .encrypt(key),
    open: async (token) => {
      try {
        const { payload } = await jwtDecrypt(token, key, {
          keyManagementAlgorithms: ['dir'],
          contentEncryptionAlgorithms: ['A256GCM'],
          requiredClaims: ['exp'],
        });
        return payload;
      } catch {
        return null;
      }
    },
  };
}
