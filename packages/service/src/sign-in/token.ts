import { readFileSync } from 'node:fs';
import type { IncomingMessage } from 'node:http';
import { parse } from 'cookie';
import { createLocalJWKSet, createRemoteJWKSet, jwtVerify, type JSONWebKeySet } from 'jose';
import { GUEST, type Visitor } from '@kleidon/core';
import type { TokenSettings } from '../settings.ts';
import { mapClaims } from './claims.ts';

/** Signatures that anyone could make with what is public are no proof. */
const ALGORITHMS = [
  'RS256',
  'RS384',
  'RS512',
  'PS256',
  'PS384',
  'PS512',
  'ES256',
  'ES384',
  'EdDSA',
];

/**
 * Who a request is by, from a token that the website's own login signed (RFC 7519). Whoever has none,
 * or one that is not right or has run out, is a guest.
 */
export function visitorsByToken(
  settings: TokenSettings,
): (request: IncomingMessage, timeZone: string) => Promise<Visitor> {
  const { issuer, audience, claims } = settings;
  const keys = /^https?:/.test(settings.keys)
    ? createRemoteJWKSet(new URL(settings.keys))
    : createLocalJWKSet(JSON.parse(readFileSync(settings.keys, 'utf8')) as JSONWebKeySet);
  return async (request, timeZone) => {
    const token = tokenIn(request, settings);
    if (token === undefined) return GUEST;
    try {
      const { payload } = await jwtVerify(token, keys, {
        algorithms: ALGORITHMS,
        ...(issuer === undefined ? {} : { issuer }),
        ...(audience === undefined ? {} : { audience }),
        requiredClaims: ['exp'],
      });
      return mapClaims(payload, claims ?? {}, timeZone).visitor ?? GUEST;
    } catch {
      return GUEST;
    }
  };
}

function tokenIn(
  { headers }: IncomingMessage,
  { cookie, header }: TokenSettings,
): string | undefined {
  if (cookie !== undefined) return parse(headers.cookie ?? '')[cookie];
  const value = headers[header!.toLowerCase()];
  return typeof value === 'string' ? value.replace(/^Bearer +/i, '') : undefined;
}
