import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  calculateJwkThumbprint,
  exportJWK,
  generateKeyPair,
  importJWK,
  SignJWT,
  type JWK,
} from 'jose';
import type { Visitor } from '@kleidon/core';

/** The field in which the website is told who the visitor is. */
export const VISITOR_FIELD = 'Kleidon-Visitor';

/** Says to a website who a visitor is, so that it can check that the gateway said so. */
export interface VisitorProof {
  /** The public key as a JWKS (RFC 7517). */
  readonly keys: { readonly keys: readonly JWK[] };
  /** A signed token (RFC 7519) about a visitor for one website; null for a guest, of whom there is nothing to say. */
  of(visitor: Visitor, audience: string, now: number): Promise<string | null>;
}

const LASTS = 120;
/** One that still lasts this long is sent again, so that not every request costs a signature. */
const RENEWED = 60;
const MOST_KEPT = 10_000;

/** The key of this service, made the first time and kept in its data folder. */
export async function visitorProof(folder: string): Promise<VisitorProof> {
  const file = join(folder, 'gateway-key.json');
  if (!existsSync(file)) {
    const { privateKey } = await generateKeyPair('EdDSA', { extractable: true });
    writeFileSync(file, JSON.stringify(await exportJWK(privateKey)), { mode: 0o600 });
  }
  const own = JSON.parse(readFileSync(file, 'utf8')) as JWK;
  const { d: _, ...open } = own;
  const kid = await calculateJwkThumbprint(open);
  const key = await importJWK(own, 'EdDSA');
  const kept = new Map<string, { readonly token: string; readonly until: number }>();
  return {
    keys: { keys: [{ ...open, kid, alg: 'EdDSA', use: 'sig' }] },
    of: async ({ guest, id, roles, groups }, audience, now) => {
      if (guest || id === null) return null;
      const seconds = Math.floor(now / 1000);
      const name = JSON.stringify([audience, id, roles, groups]);
      const before = kept.get(name);
      if (before && before.until - seconds > RENEWED) return before.token;
      const until = seconds + LASTS;
      const token = await new SignJWT({ roles, groups })
        .setProtectedHeader({ alg: 'EdDSA', kid })
        .setIssuer('kleidon')
        .setAudience(audience)
        .setSubject(id)
        .setIssuedAt(seconds)
        .setExpirationTime(until)
        .sign(key);
      if (kept.size >= MOST_KEPT) kept.delete(kept.keys().next().value!);
      kept.set(name, { token, until });
      return token;
    },
  };
}
