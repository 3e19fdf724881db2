import { readFileSync } from 'node:fs';
import type { IncomingMessage } from 'node:http';
import { parse } from 'cookie';
import {
  createLocalJWKSet,
  createRemoteJWKSet,
  customFetch,
  errors,
  jwtVerify,
  type JSONWebKeySet,
} from 'jose';
import type { Logger } from 'pino';
import { model } from '@kleidon/core';
import type { TokenSettings } from '../settings/settings.ts';
import { boundedFetch } from './bounded-fetch.ts';
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

/** What became of tokens that were not taken. */
export interface Rejected {
  readonly count: number;
  /** Why the last one was not; null where all were. */
  readonly last: { readonly reason: string; readonly at: number } | null;
}

/** The website's own login, whose signed tokens say who a request is by. */
export interface TokenLogin {
  /**
   * Who a request is by, from its token (RFC 7519). Whoever has none, or one that is not right or has run out,
   * is a guest.
   */
  visitorOf(request: IncomingMessage, timeZone: string): model.Visitor | Promise<model.Visitor>;
  rejected(): Rejected;
  /** What would let tokens of others in, or none of its own. */
  problems(): Promise<string[]>;
}

/** One line in this time for each reason: whoever sends wrong tokens must not fill the log. */
const LOG_EVERY = 60_000;
const START_PATIENCE = 5000;

export function loginByToken(
  settings: TokenSettings,
  now: () => number,
  log: Pick<Logger, 'warn'>,
): TokenLogin {
  const { issuer, audience, claims } = settings;
  const isRemote = /^https?:/.test(settings.keys);
  const keys = isRemote
    ? createRemoteJWKSet(new URL(settings.keys), {
        [customFetch]: (...asked) => boundedFetch(...asked),
      })
    : createLocalJWKSet(JSON.parse(readFileSync(settings.keys, 'utf8')) as JSONWebKeySet);
  let count = 0;
  let last: Rejected['last'] = null;
  const logged = new Map<string, number>();
  const reject = (reason: string): model.Visitor => {
    count++;
    last = { reason, at: now() };
    if (now() - (logged.get(reason) ?? 0) >= LOG_EVERY) {
      logged.set(reason, now());
      log.warn({ reason, rejected: count }, 'a token of the login was not taken');
    }
    return model.GUEST;
  };
  return {
    visitorOf: (request, timeZone) => {
      const token = tokenIn(request, settings);
      if (token === undefined || token === '') return model.GUEST;
      const options = {
        algorithms: ALGORITHMS,
        ...(issuer === undefined ? {} : { issuer }),
        ...(audience === undefined ? {} : { audience }),
        requiredClaims: ['exp'],
      };
      return jwtVerify(token, keys, options).then(
        ({ payload }) =>
          mapClaims(payload, claims ?? {}, timeZone).visitor ??
          reject('the claim that names the visitor is missing'),
        (error: unknown) => reject(reasonOf(error)),
      );
    },
    rejected: () => ({ count, last }),
    problems: async () => [
      ...(audience === undefined
        ? ['"audience" is missing: a token that the login made for something else is taken too']
        : []),
      ...(isRemote ? await problemsOfKeys(settings.keys) : []),
    ],
  };
}

/** Why a token was not taken, in words that tell nothing of what stands in it. */
function reasonOf(error: unknown): string {
  if (error instanceof errors.JWTExpired) return 'it has run out';
  if (error instanceof errors.JWTClaimValidationFailed)
    return `its claim "${error.claim}" is ${error.reason === 'missing' ? 'missing' : 'another one'}`;
  if (error instanceof errors.JWSSignatureVerificationFailed) return 'its signature is wrong';
  if (error instanceof errors.JWKSNoMatchingKey) return 'no key of the login fits it';
  if (error instanceof errors.JOSEAlgNotAllowed) return 'its algorithm is not taken';
  if (error instanceof errors.JWSInvalid || error instanceof errors.JWTInvalid)
    return 'it is no signed token';
  return 'the keys of the login can not be had';
}

async function problemsOfKeys(address: string): Promise<string[]> {
  try {
    const answer = await boundedFetch(address, { signal: AbortSignal.timeout(START_PATIENCE) });
    const set = (await answer.json()) as { keys?: unknown };
    if (answer.ok && Array.isArray(set.keys) && set.keys.length > 0) return [];
    return [`there are no keys at ${address}: it answered ${answer.status}`];
  } catch {
    return [`the keys at ${address} can not be had: nobody who signs in there is let in`];
  }
}

function tokenIn(
  { headers }: IncomingMessage,
  { cookie, header }: TokenSettings,
): string | undefined {
  if (cookie !== undefined) return parse(headers.cookie ?? '')[cookie];
  const value = headers[header!.toLowerCase()];
  return typeof value === 'string' ? value.replace(/^Bearer +/i, '') : undefined;
}
