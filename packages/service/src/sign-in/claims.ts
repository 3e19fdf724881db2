import { formats, model, wording } from '@kleidon/core';
import type { ClaimRule, ClaimSettings } from '../settings/claims.ts';

export type Claims = Readonly<Record<string, unknown>>;

/** What a claim became, for whoever sets up the mapping. */
export interface ClaimUse {
  readonly claim: string;
  readonly value: unknown;
  /** In words; null where nothing came of it. */
  readonly became: string | null;
}

/** Who a visitor is by what was said of them, and what came of each claim. */
export interface MappedClaims {
  /** Null where the claims name nobody. */
  readonly visitor: model.Visitor | null;
  readonly uses: readonly ClaimUse[];
}

/** Claims about the token itself (RFC 7519; OpenID Connect Core, 2) say nothing of the visitor. */
const OF_THE_TOKEN: ReadonlySet<string> = new Set([
  ...['iss', 'aud', 'exp', 'iat', 'nbf', 'jti', 'nonce', 'azp', 'auth_time', 'acr', 'amr'],
  ...['at_hash', 'c_hash', 's_hash', 'sid'],
]);

/**
 * Maps claims to a visitor.
 * @param timeZone in which dates without an offset are read
 */
export function mapClaims(claims: Claims, settings: ClaimSettings, timeZone: string): MappedClaims {
  const { id = 'sub', name = 'name', email = 'email', bought = 'bought' } = settings;
  const { roles = 'roles', groups = 'groups', attributes = [] } = settings;
  const became = new Map<string, string[]>();
  const note = (claim: string, text: string): void => {
    const key = claim in claims ? claim : claim.split('.')[0]!;
    became.set(key, [...(became.get(key) ?? []), text]);
  };
  const listOf = (rule: ClaimRule, what: string): string[] => {
    const claim = typeof rule === 'string' ? rule : rule.claim;
    const as = typeof rule === 'string' ? {} : rule.as;
    const all = textsIn(claimAt(claims, claim));
    const values = all
      .filter((value) => isPlainText(value) && value.length <= MAX_NAME_LENGTH)
      .slice(0, MAX_LIST_LENGTH)
      .map((value) => (Object.hasOwn(as, value) ? as[value]! : value));
    if (values.length > 0) note(claim, `${what} ${values.join(', ')}`);
    if (values.length < all.length) note(claim, `${all.length - values.length} left out`);
    return [...new Set(values)];
  };

  const who = claimAt(claims, id);
  const hasId = isPlainText(who) && who.length <= MAX_ID_LENGTH;
  if (hasId) note(id, `id ${who}`);
  else if (typeof who === 'string') note(id, `nothing: an id has 1 to ${MAX_ID_LENGTH} characters`);
  const called = claimAt(claims, name);
  const isName = isPlainText(called) && called.length <= MAX_NAME_LENGTH;
  const title = isName ? called : hasId ? who : '';
  if (isName) note(name, `name ${title}`);
  else if (typeof called === 'string')
    note(name, `nothing: a name has 1 to ${MAX_NAME_LENGTH} characters`);

  const own = Object.fromEntries(
    attributes.flatMap((attribute) => {
      const value = claimAt(claims, attribute);
      if (!isAttribute(value)) return [];
      const key = attribute.split('.').at(-1)!;
      // Purchases go by it: it counts below, where it is verified, and nowhere else.
      if (key === 'email') return [];
      note(attribute, `visitor.${key}`);
      return [[key, value] as const];
    }),
  );
  const address = claimAt(claims, email);
  if (typeof address === 'string' && !isAddress(address)) note(email, 'nothing: it is no address');
  else if (typeof address === 'string') {
    // Anyone may write anything into an address that nobody has checked.
    if (claims['email_verified'] === true) {
      own['email'] = address;
      note(email, 'visitor.email');
      note('email_verified', 'the e-mail counts');
    } else note(email, 'nothing: it is not verified');
  }
  const { purchases, unclear } = purchasesIn(claimAt(claims, bought), timeZone);
  const inForce = { ...model.GUEST, guest: false, bought: purchases };
  if (purchases.length > 0) note(bought, wording.summarize(inForce, timeZone));
  for (const why of unclear) note(bought, why);

  const visitor = {
    ...model.GUEST,
    guest: false,
    name: hasId ? who : '',
    id: hasId ? who : '',
    title,
    roles: listOf(roles, 'roles'),
    groups: listOf(groups, 'groups'),
    bought: purchases,
    attributes: own,
  };
  const uses = Object.entries(claims).map(([claim, value]) => ({
    claim,
    value,
    became:
      became.get(claim)?.join('; ') ??
      (OF_THE_TOKEN.has(claim) ? 'about the sign-in itself' : null),
  }));
  return {
    visitor: hasId ? { ...visitor, summary: wording.summarize(visitor, timeZone) } : null,
    uses,
  };
}

/**
 * Joins the claims of an ID token with those of the user info. Whether an address is verified counts from the source
 * of the address: another source may speak of another address.
 */
export function joinClaims(
  idToken: Claims,
  userInfo: Claims,
  { email = 'email' }: ClaimSettings,
): Claims {
  const joined = { ...userInfo, ...idToken };
  const { email_verified: _, ...others } = joined;
  const address = claimAt(joined, email);
  const isVerified = [idToken, userInfo].some(
    (source) => claimAt(source, email) === address && source['email_verified'] === true,
  );
  return address !== undefined && isVerified ? { ...others, email_verified: true } : others;
}

/** A name with dots is taken as it is first: claims may be named like addresses. */
function claimAt(claims: Claims, name: string): unknown {
  if (Object.hasOwn(claims, name)) return claims[name];
  let value: unknown = claims;
  for (const step of name.split('.')) {
    if (typeof value !== 'object' || value === null || !Object.hasOwn(value, step))
      return undefined;
    value = (value as Claims)[step];
  }
  return value;
}

/** Claims hold one text, texts in a list, or texts with spaces between (RFC 8693, 4.2). */
function textsIn(claim: unknown): string[] {
  if (Array.isArray(claim)) return claim.filter((one): one is string => typeof one === 'string');
  return typeof claim === 'string' ? claim.split(' ').filter((one) => one !== '') : [];
}

/** What a claim says of purchases: those that are clear, and why others do not count. */
interface ReadPurchases {
  readonly purchases: readonly model.Purchase[];
  readonly unclear: readonly string[];
}

/**
 * Purchases are names of products, or objects in the shape that the site file has them. One that is not
 * clear in every field does not count: what can't be read must not make it last.
 */
function purchasesIn(claim: unknown, timeZone: string): ReadPurchases {
  if (claim === undefined || claim === null) return { purchases: [], unclear: [] };
  const all: readonly unknown[] = Array.isArray(claim)
    ? claim
    : typeof claim === 'string'
      ? textsIn(claim)
      : [claim];
  const purchases: model.Purchase[] = [];
  const unclear: string[] = [];
  if (all.length > MAX_LIST_LENGTH) unclear.push(`${all.length - MAX_LIST_LENGTH} left out`);
  for (const one of all.slice(0, MAX_LIST_LENGTH)) {
    const read =
      typeof one === 'string'
        ? readPurchase({ product: one }, timeZone)
        : readPurchase(one, timeZone);
    if (typeof read === 'string') unclear.push(read);
    else purchases.push(read);
  }
  return { purchases, unclear };
}

/** A purchase, or why it does not count. */
function readPurchase(entry: unknown, timeZone: string): model.Purchase | string {
  if (typeof entry !== 'object' || entry === null || Array.isArray(entry))
    return `${JSON.stringify(entry).slice(0, MAX_NAME_LENGTH)} is no purchase`;
  const { product, from, until, refunded, paused } = entry as Claims;
  if (!isPlainText(product) || product.length > MAX_NAME_LENGTH)
    return 'a purchase names no product';
  const [begins, ends] = [momentIn(from, timeZone), momentIn(until, timeZone)];
  const [isRefunded, isPaused] = [flagIn(refunded), flagIn(paused)];
  const wrong = Object.entries({
    from: begins,
    until: ends,
    refunded: isRefunded,
    paused: isPaused,
  })
    .filter(([, value]) => value === undefined)
    .map(([field]) => `"${field}" is ${JSON.stringify((entry as Claims)[field])}`);
  if (
    begins === undefined ||
    ends === undefined ||
    isRefunded === undefined ||
    isPaused === undefined
  )
    return `${product} does not count: ${wrong.join(', ')}`;
  return { product, from: begins, until: ends, refunded: isRefunded, paused: isPaused };
}

/** Whether something is so: only true and false are clear; undefined for anything else. */
function flagIn(value: unknown): boolean | undefined {
  if (value === undefined || value === null) return false;
  return typeof value === 'boolean' ? value : undefined;
}

/** The end of the year 9999, in seconds since 1970: whatever is later was meant in milliseconds. */
const LAST_SECOND = 253_402_300_799;

/** Milliseconds of a date, or of seconds since 1970 as in all claims; null where open, undefined where unreadable. */
function momentIn(value: unknown, timeZone: string): number | null | undefined {
  if (value === undefined || value === null) return null;
  if (typeof value === 'number')
    return Number.isFinite(value) && value >= 0 && value <= LAST_SECOND ? value * 1000 : undefined;
  return typeof value === 'string'
    ? (formats.readInstant(value, timeZone) ?? undefined)
    : undefined;
}

/** Bounds of what is kept of a visitor, for each request and in each session. */
const MAX_ID_LENGTH = 255;
const MAX_NAME_LENGTH = 200;
const MAX_ATTRIBUTE_LENGTH = 1000;
const MAX_LIST_LENGTH = 1000;
/** The longest path of SMTP without its brackets (RFC 5321, 4.5.3.1.3). */
const MAX_ADDRESS_LENGTH = 254;

const CONTROL = /[\u0000-\u001f\u007f-\u009f]/;

/** Whether a claim is text that can be shown and compared: not empty, and without control characters. */
const isPlainText = (value: unknown): value is string =>
  typeof value === 'string' && value !== '' && !CONTROL.test(value);

const isAddress = (text: string): boolean =>
  isPlainText(text) && text.length <= MAX_ADDRESS_LENGTH && !/^\s|\s$/.test(text);

const isAttribute = (value: unknown): value is model.Attribute =>
  isAttributeItem(value) ||
  typeof value === 'boolean' ||
  (Array.isArray(value) && value.length <= MAX_LIST_LENGTH && value.every(isAttributeItem));

const isAttributeItem = (value: unknown): boolean =>
  typeof value === 'number' || (typeof value === 'string' && value.length <= MAX_ATTRIBUTE_LENGTH);
