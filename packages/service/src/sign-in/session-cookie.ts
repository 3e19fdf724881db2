import { parse, serialize } from 'cookie';

/** The cookies by which the gateway knows a browser again. They are between the two: the website never sees them. */
export interface SessionCookie {
  /** The secret that a request brings; null where it brings none, or two that differ. */
  secretIn(cookies: string | undefined): string | null;
  /** `Set-Cookie` that gives the secret. */
  give(secret: string): string;
  /** `Set-Cookie` that takes it back. */
  take(): string;
  /** `Set-Cookie` for the way of one sign-in, and for its end. */
  setLoginStateCookie(state: string, sealed: string, seconds: number): string;
  clearLoginState(state: string): string;
  /** `Set-Cookie` that take back the ways of sign-ins that were begun and left, where there are many. */
  clearOldLoginStates(cookies: string | undefined): string[];
  readLoginState(cookies: string | undefined, state: string): string | null;
}

/** Where the gateway's own addresses are. */
export const RESERVED_PREFIX = '/.kleidon/';

/** As many sign-ins can be under way in one browser. */
const MOST_LOGIN_STATES = 5;

const OURS = /^(?:__(?:Host|Secure)-)?kleidon-/i;

/**
 * The cookies at an address (RFC 6265bis): never readable by scripts, never sent with what another
 * site asks for in the background, and over HTTPS only where the site is on it.
 */
export function sessionCookie(publicAddress: string): SessionCookie {
  const secure = publicAddress.startsWith('https:');
  const name = secure ? '__Host-kleidon-session' : 'kleidon-session';
  const usual = { httpOnly: true, secure, sameSite: 'lax', path: '/' } as const;
  // A sibling host can set a cookie for its parent domain, and so sign somebody in as someone else. The prefix
  // __Host- refuses that (RFC 6265bis, 4.1.3.2). Nothing does over plain HTTP.
  const loginState = (state: string): string =>
    `${secure ? '__Host-' : ''}kleidon-way-${state.slice(0, 12)}`;
  return {
    secretIn: (cookies) => valueOf(cookies, name),
    give: (secret) => serialize(name, secret, usual),
    take: () => serialize(name, '', { ...usual, maxAge: 0 }),
    setLoginStateCookie: (state, sealed, seconds) =>
      serialize(loginState(state), sealed, { ...usual, maxAge: seconds }),
    clearLoginState: (state) => serialize(loginState(state), '', { ...usual, maxAge: 0 }),
    clearOldLoginStates: (cookies) => {
      const begun = Object.keys(parse(cookies ?? '')).filter((one) => one.includes('kleidon-way-'));
      if (begun.length < MOST_LOGIN_STATES) return [];
      return begun.map((one) => serialize(one, '', { ...usual, maxAge: 0 }));
    },
    readLoginState: (cookies, state) => valueOf(cookies, loginState(state)),
  };
}

/** The value of a cookie; null where it is missing, or comes with two values. */
function valueOf(cookies: string | undefined, name: string): string | null {
  if (!cookies?.includes(name)) return null;
  const found = new Set(
    cookies
      .split(';')
      .map((one) => one.trim())
      .filter((one) => one.startsWith(`${name}=`))
      .map((one) => one.slice(name.length + 1)),
  );
  return found.size === 1 ? [...found][0]! : null;
}

/** A `Cookie` field without the gateway's own; null where nothing is left of it. */
export function withoutOurCookies(value: string): string | null {
  if (!value.includes('kleidon-') && !/kleidon-/i.test(value)) return value;
  const others = value.split(';').filter((one) => !OURS.test(one.trim()));
  return others.length === 0 ? null : others.join(';').trim();
}

/** Whether a `Set-Cookie` of the website is for a cookie of ours: it could sign someone in as someone else. */
export const setsOurCookie = (value: string): boolean =>
  // A cookie without a name is sent as its value alone: "=kleidon-session=x" becomes "kleidon-session=x".
  OURS.test(value.replace(/^[\s=]+/, ''));
