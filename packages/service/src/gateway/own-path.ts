import { RESERVED_PREFIX } from '../sign-in/session-cookie.ts';

const MOST_RETURN = 2000;

/** Only a path of this site: whatever else a link may carry could lead someone away who has just signed in. */
export function ownPath(address: string | null): string | null {
  if (address === null || address.length > MOST_RETURN) return null;
  // Browsers read a backslash as a slash, and drop tabs and line ends: "/\t/evil.example" names a host.
  return /^\/(?![/\\])[^\\\p{Cc}]*$/u.test(address) && !address.startsWith(RESERVED_PREFIX)
    ? address
    : null;
}
