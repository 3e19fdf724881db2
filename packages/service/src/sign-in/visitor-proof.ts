import { join } from 'node:path';
import {
  calculateJwkThumbprint,
  exportJWK,
  generateKeyPair,
  importJWK,
  SignJWT,
  type JWK,
} from 'jose';
import type { Logger } from 'pino';
import type { model } from '@kleidon/core';
import { keyFile, KeyProblem } from './key-file.ts';

/** The field in which the website is told who the visitor is. */
export const VISITOR_FIELD = 'Kleidon-Visitor';

/** Says to a website who a visitor is, so that it can check that the gateway said so. */
export interface VisitorProof {
  /** The public key as a JWKS (RFC 7517). */
  readonly keys: { readonly keys: readonly JWK[] };
  /**
   * A signed token (RFC 7519) about a visitor for one website; null for a guest, of whom there is nothing to say.
   * @param site roles and groups that it does not name are left out: a token of any size would exceed what the website
   *   reads of a header
   */
  of(
    visitor: model.Visitor,
    site: Pick<model.Site, 'roles' | 'groups'>,
    audience: string,
    now: number,
  ): Promise<string | null>;
}

const LASTS = 120;
/** One that still lasts this long is sent again, so that not every request costs a signature. */
const RENEWED = 60;
const MOST_KEPT = 10_000;
/** One line of the log in so many milliseconds. */
const LOG_INTERVAL = 60_000;

async function readKey(text: Buffer) {
  const own = JSON.parse(text.toString('utf8')) as JWK;
  if (typeof own.d !== 'string') throw new Error('it holds no private key');
  const { d: _, ...open } = own;
  return { open, kid: await calculateJwkThumbprint(open), key: await importJWK(own, 'EdDSA') };
}

/**
 * The key of this service, made the first time and kept in its data folder.
 * @throws KeyProblem where the file holds no key
 */
export async function visitorProof(
  folder: string,
  log: Pick<Logger, 'warn'>,
): Promise<VisitorProof> {
  let loggedAt = -Infinity;
  const file = join(folder, 'gateway-key.json');
  const { privateKey } = await generateKeyPair('EdDSA', { extractable: true });
  const made = JSON.stringify(await exportJWK(privateKey));
  const { open, kid, key } = await readKey(keyFile(file, () => Buffer.from(made))).catch(
    (error: unknown) => {
      throw new KeyProblem(file, (error as Error).message);
    },
  );
  const cache = new Map<string, { readonly token: string; readonly until: number }>();
  return {
    keys: { keys: [{ ...open, kid, alg: 'EdDSA', use: 'sig' }] },
    of: async ({ guest, id, ...visitor }, site, audience, now) => {
      if (guest || id === null) return null;
      const roles = visitor.roles.filter((role) => Object.hasOwn(site.roles, role));
      const groups = visitor.groups.filter((group) => Object.hasOwn(site.groups, group));
      const seconds = Math.floor(now / 1000);
      const name = JSON.stringify([audience, id, roles, groups]);
      const before = cache.get(name);
      if (before && before.until - seconds > RENEWED) return before.token;
      const leftOut = visitor.roles.length + visitor.groups.length - roles.length - groups.length;
      if (leftOut > 0 && now - loggedAt >= LOG_INTERVAL) {
        loggedAt = now;
        log.warn(
          { leftOut },
          `roles and groups that the site file lacks are not in ${VISITOR_FIELD}`,
        );
      }
      const until = seconds + LASTS;
      const token = await new SignJWT({ roles, groups })
        .setProtectedHeader({ alg: 'EdDSA', kid })
        .setIssuer('kleidon')
        .setAudience(audience)
        .setSubject(id)
        .setIssuedAt(seconds)
        .setExpirationTime(until)
        .sign(key);
      if (cache.size >= MOST_KEPT) cache.delete(cache.keys().next().value!);
      cache.set(name, { token, until });
      return token;
    },
  };
}
