import { readFileSync } from 'node:fs';
import type { IncomingMessage } from 'node:http';
import { parse } from 'cookie';
import {
  createLocalJWKSet,
  createRemoteJWKSet,
  jwtVerify,
  type JSONWebKeySet,
  type JWTPayload,
} from 'jose';
import { GUEST, summarize, type Attribute, type Visitor } from '@kleidon/core';
import type { TokenSettings } from '../settings.ts';

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
): (request: IncomingMessage) => Promise<Visitor> {
  const { issuer, audience, claims } = settings;
  const keys = /^https?:/.test(settings.keys)
    ? createRemoteJWKSet(new URL(settings.keys))
    : createLocalJWKSet(JSON.parse(readFileSync(settings.keys, 'utf8')) as JSONWebKeySet);
  return async (request) => {
    const token = tokenIn(request, settings);
    if (token === undefined) return GUEST;
    try {
      const { payload } = await jwtVerify(token, keys, {
        algorithms: ALGORITHMS,
        ...(issuer === undefined ? {} : { issuer }),
        ...(audience === undefined ? {} : { audience }),
        requiredClaims: ['exp'],
      });
      return visitorFrom(payload, claims ?? {});
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

function visitorFrom(
  payload: JWTPayload,
  {
    id = 'sub',
    roles = 'roles',
    groups = 'groups',
    attributes = [],
  }: NonNullable<TokenSettings['claims']>,
): Visitor {
  const who = payload[id];
  if (typeof who !== 'string' || who === '') return GUEST;
  const visitor = {
    ...GUEST,
    name: who,
    title: who,
    guest: false,
    id: who,
    roles: textsIn(payload[roles]),
    groups: textsIn(payload[groups]),
    attributes: Object.fromEntries(
      attributes.flatMap((name) => {
        const value = payload[name];
        return isAttribute(value) ? [[name, value] as const] : [];
      }),
    ),
  };
  return { ...visitor, summary: summarize(visitor, 'UTC') };
}

/** Claims hold one text, texts in a list, or texts with spaces between (RFC 8693, 4.2). */
function textsIn(claim: unknown): string[] {
  if (Array.isArray(claim)) return claim.filter((one): one is string => typeof one === 'string');
  return typeof claim === 'string' ? claim.split(' ').filter((one) => one !== '') : [];
}

const isAttribute = (value: unknown): value is Attribute =>
  ['string', 'number', 'boolean'].includes(typeof value);
