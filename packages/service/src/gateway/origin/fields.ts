import { isIP } from 'node:net';
import { setsOurCookie, withoutOurCookies } from '../../sign-in/session-cookie.ts';

/** Field names and values by turns, as Node has them and as they are sent. */
export type RawFields = string[];

/** Fields that are for one connection only (RFC 9110, 7.6.1), besides those that `Connection` names. */
const HOP_BY_HOP = new Set([
  'connection',
  'http2-settings',
  'keep-alive',
  'proxy-authenticate',
  'proxy-authentication-info',
  'proxy-authorization',
  'proxy-connection',
  'te',
  'trailer',
  'transfer-encoding',
  'upgrade',
]);

/**
 * Fields by which a client could pose as the gateway or as another proxy, or ask for something else
 * than what was judged: another host, another address, another method.
 */
const CLIENT_SUPPLIED =
  /^(?:forwarded|via|proxy|kleidon-.*|host|expect|front-end-https|x-sendfile.*|x-accel-.*|(?:x-)?script-name)$|forwarded|original|overrid|rewrit|^x-(?:.*-)?(?:url|uri|path|path-info|host|port|prefix|scheme|proto|protocol|method|https?|ssl|tls)$/;

/**
 * Families of fields in which proxies and servers tell who is asking: a website may believe them. A name belongs to a
 * family by any part of it.
 */
const CLAIMS_IDENTITY =
  /user|uid|mail|group|roles?(?:-|$)|scope|ident|subject|(?:^|-)sub(?:-|$)|principal|auth|jwt|jws|jwe|assert|oidc|openid|oauth|saml|shib|claim|imperson|admin|remote|cert|account|tenant|permission|privileg|entitle|sudo|behalf|delegat|act-as|log[io]n|whoami|person|profile|member|staff|employee|customer|credential|caller|consumer|kerberos|ldap|cas-|client-(?:verify|dn|s-dn|i-dn|name|id)(?:-|$)|ssl-client|(?:^|-)(?:is|dn)-|(?:^|-)(?:client|real|peer|source|origin)?ip(?:-|$)/;

/** Fields of the HTTP standards and of browsers that look like those, and mean something else. */
const STANDARD =
  /^(?:user-agent|authorization|max-forwards|sec-(?:fetch|ch|websocket|purpose|gpc)(?:-.*)?|access-control-request-.*|upgrade-insecure-requests)$/;

/** Servers that turn fields into variables read everything else as one of these. */
const PLAIN_NAME = /^[a-z\d-]+$/;

/** What only the site itself may be told: other servers that a rewrite serves from are not the site. */
const FOR_THE_SITE_ALONE = new Set(['cookie', 'authorization']);

const MAX_KNOWN_NAMES = 1000;

/**
 * Returns a function that says whether a field of a request may go on to the website.
 * @param allowed names of fields that may, although they look like those that claim who is asking
 */
export function forwardedNames(allowed: readonly string[]): (name: string) => boolean {
  const isAllowed = new Set(allowed.map((name) => name.toLowerCase()));
  // The same names come again and again.
  const known = new Map<string, boolean>();
  return (name) => {
    let answer = known.get(name);
    if (answer === undefined) {
      const lower = name.toLowerCase();
      answer =
        PLAIN_NAME.test(lower) &&
        !HOP_BY_HOP.has(lower) &&
        (STANDARD.test(lower) ||
          isAllowed.has(lower) ||
          (!CLIENT_SUPPLIED.test(lower) && !CLAIMS_IDENTITY.test(lower)));
      if (known.size < MAX_KNOWN_NAMES) known.set(name, answer);
    }
    return answer;
  };
}

/**
 * The fields of a request that go on to the website, or to another server.
 * @param isSite whether they go to the website itself
 */
export function forwardedFields(
  raw: readonly string[],
  isForwarded: (name: string) => boolean,
  isSite = true,
): RawFields {
  const dropped = namedIn(raw);
  const passed: RawFields = [];
  for (let i = 0; i < raw.length; i += 2) {
    const name = raw[i]!;
    if (!isForwarded(name) || dropped?.has(name.toLowerCase())) continue;
    if (!isSite && FOR_THE_SITE_ALONE.has(name.toLowerCase())) continue;
    const isCookie = name.length === 6 && name.toLowerCase() === 'cookie';
    const value = isCookie ? withoutOurCookies(raw[i + 1]!) : raw[i + 1]!;
    if (value !== null) passed.push(name, value);
  }
  return passed;
}

/** Fields by which caches keep a response in spite of what `Cache-Control` says. */
const CACHING =
  /^(?:(?:[\w-]+-)?cdn-cache-control|surrogate-(?:control|key)|edge-control|x-accel-expires|(?:x-)?[\w-]+-cache-control|expires|pragma|age)$/;

/** Fields that the gateway writes itself: no cache before it sees them, so that none can vary on them. */
const WRITTEN_HERE = /^(?:kleidon-.*|forwarded|x-forwarded-.*|host)$/;

const PRIVATE = 'private, no-store';

/**
 * The fields of a response that go back to the visitor; those of the rules take the place of the website's.
 * @param isSite whether they come from the website itself
 */
export function answeredFields(
  raw: readonly string[],
  rules: Readonly<Record<string, string>>,
  isSite = true,
): RawFields {
  const dropped = namedIn(raw);
  const vary = varyIn(raw);
  const isForOne = vary.some((name) => WRITTEN_HERE.test(name.toLowerCase()));
  const own = isForOne
    ? { ...rules, 'Cache-Control': PRIVATE, Vary: both(rules['Vary'], 'Cookie') }
    : rules;
  const names = new Set(Object.keys(own).map((name) => name.toLowerCase()));
  const isKeptByRules = names.has('cache-control');
  const passed: RawFields = [];
  for (let i = 0; i < raw.length; i += 2) {
    const [name, value] = [raw[i]!, raw[i + 1]!];
    const lower = name.toLowerCase();
    if (HOP_BY_HOP.has(lower) || dropped?.has(lower) || names.has(lower)) continue;
    if (lower === 'set-cookie' && (!isSite || setsOurCookie(value))) continue;
    if (isKeptByRules && CACHING.test(lower)) continue;
    if (lower === 'vary' && isForOne) continue;
    passed.push(name, value);
  }
  const others = vary.filter((name) => !WRITTEN_HERE.test(name.toLowerCase()));
  for (const [name, value] of Object.entries(own))
    passed.push(name, name.toLowerCase() === 'vary' ? [...others, value].join(', ') : value);
  return passed;
}

const both = (one: string | undefined, other: string): string =>
  one === undefined ? other : one.includes(other) ? one : `${one}, ${other}`;

/** The names in all fields `Vary`. */
function varyIn(raw: readonly string[]): string[] {
  const names: string[] = [];
  for (let i = 0; i < raw.length; i += 2) {
    if (raw[i]!.length !== 4 || raw[i]!.toLowerCase() !== 'vary') continue;
    for (const one of raw[i + 1]!.split(',')) if (one.trim() !== '') names.push(one.trim());
  }
  return names;
}

/** The value of a field; undefined where there is none. */
export function valueOf(raw: readonly string[], name: string): string | undefined {
  for (let i = 0; i < raw.length; i += 2)
    if (raw[i]!.length === name.length && raw[i]!.toLowerCase() === name) return raw[i + 1];
  return undefined;
}

/** The values of all fields of one name. */
export function valuesOf(raw: readonly string[], name: string): string[] {
  const values: string[] = [];
  for (let i = 0; i < raw.length; i += 2)
    if (raw[i]!.length === name.length && raw[i]!.toLowerCase() === name) values.push(raw[i + 1]!);
  return values;
}

/** Fields but for those with some names. */
export const without = (fields: readonly string[], names: RegExp): RawFields =>
  fields.filter((_, i) => !names.test(fields[i - (i % 2)]!));

/** `Forwarded` as RFC 7239 has it: who asked, for which host, over which protocol, and by way of whom. */
export function forwardedBy(remote: string, host: string, protocol: string): string {
  const family = isIP(remote);
  const client = family === 0 ? 'unknown' : family === 6 ? `"[${remote}]"` : remote;
  return `for=${client};host="${host}";proto=${protocol};by=_kleidon`;
}

/** The fields that `Connection` names besides; null where it names none, as nearly always. */
function namedIn(raw: readonly string[]): Set<string> | null {
  let named: Set<string> | null = null;
  for (let i = 0; i < raw.length; i += 2) {
    if (raw[i]!.length !== 10 || raw[i]!.toLowerCase() !== 'connection') continue;
    for (const one of raw[i + 1]!.split(',')) {
      const name = one.trim().toLowerCase();
      if (name !== 'keep-alive' && name !== 'close') (named ??= new Set()).add(name);
    }
  }
  return named;
}
