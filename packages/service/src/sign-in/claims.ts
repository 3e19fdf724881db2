import {
  GUEST,
  readInstant,
  summarize,
  type Attribute,
  type Purchase,
  type Visitor,
} from '@kleidon/core';

/** A claim by its name, or by the names on the way to it with dots between; and what its values are called here. */
export type ClaimRule = string | { readonly claim: string; readonly as: Record<string, string> };

/** Which claims say what of a visitor. What is not named has the name that OpenID Connect gives it. */
export interface ClaimSettings {
  readonly id?: string | undefined;
  readonly name?: string | undefined;
  readonly email?: string | undefined;
  readonly roles?: ClaimRule | undefined;
  readonly groups?: ClaimRule | undefined;
  readonly bought?: string | undefined;
  readonly attributes?: readonly string[] | undefined;
}

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
  readonly visitor: Visitor | null;
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
    const values = textsIn(claimAt(claims, claim)).map((value) =>
      Object.hasOwn(as, value) ? as[value]! : value,
    );
    if (values.length > 0) note(claim, `${what} ${values.join(', ')}`);
    return [...new Set(values)];
  };

  const who = claimAt(claims, id);
  const hasId = typeof who === 'string' && who !== '';
  if (hasId) note(id, `id ${who}`);
  const called = claimAt(claims, name);
  const title = typeof called === 'string' && called !== '' ? called : hasId ? who : '';
  if (title === called) note(name, `name ${title}`);

  const own = Object.fromEntries(
    attributes.flatMap((attribute) => {
      const value = claimAt(claims, attribute);
      if (!isAttribute(value)) return [];
      const key = attribute.split('.').at(-1)!;
      note(attribute, `visitor.${key}`);
      return [[key, value] as const];
    }),
  );
  const address = claimAt(claims, email);
  if (typeof address === 'string') {
    // Anyone may write anything into an address that nobody has checked.
    if (claims['email_verified'] === true) {
      own['email'] = address;
      note(email, 'visitor.email');
      note('email_verified', 'the e-mail counts');
    } else note(email, 'nothing: it is not verified');
  }
  const purchases = purchasesIn(claimAt(claims, bought), timeZone);
  if (purchases.length > 0)
    note(bought, `bought ${purchases.map(({ product }) => product).join(', ')}`);

  const visitor = {
    ...GUEST,
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
    visitor: hasId ? { ...visitor, summary: summarize(visitor, timeZone) } : null,
    uses,
  };
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

/** Purchases are names of products, or objects in the shape that the site file has them. */
function purchasesIn(claim: unknown, timeZone: string): Purchase[] {
  const all = Array.isArray(claim) ? (claim as readonly unknown[]) : textsIn(claim);
  return all.flatMap((one): Purchase[] => {
    const { product, from, until, refunded, paused } = (
      typeof one === 'string' ? { product: one } : (one ?? {})
    ) as Claims;
    if (typeof product !== 'string') return [];
    const [begins, ends] = [momentIn(from, timeZone), momentIn(until, timeZone)];
    // A time that can't be read must not make a purchase last for ever.
    if (begins === undefined || ends === undefined) return [];
    return [
      {
        product,
        from: begins,
        until: ends,
        refunded: refunded === true,
        paused: paused === true,
      },
    ];
  });
}

/** Milliseconds of a date, or of seconds since 1970 as in all claims; null where open, undefined where unreadable. */
function momentIn(value: unknown, timeZone: string): number | null | undefined {
  if (value === undefined || value === null) return null;
  if (typeof value === 'number') return value * 1000;
  return typeof value === 'string' ? (readInstant(value, timeZone) ?? undefined) : undefined;
}

const isAttribute = (value: unknown): value is Attribute =>
  ['string', 'number', 'boolean'].includes(typeof value) ||
  (Array.isArray(value) &&
    value.every((one) => typeof one === 'string' || typeof one === 'number'));
