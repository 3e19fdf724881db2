import { readAddress, type Address } from '../address/address.ts';
import type { PreparedSite } from './prepared-site.ts';

/** The name of the query field that carries the way back after signing in. */
const RETURN_FIELD = 'return';

/** Where a guest is asked to sign in, with the way back to what they asked for. */
export function signInLocation(prepared: PreparedSite, address: Address): string {
  const { site } = prepared;
  const asked =
    address.query === '' ? address.requestedPath : `${address.requestedPath}?${address.query}`;
  const read = readAddress(site.signIn!, site, site.tidy);
  const isSignInPage =
    read.ok && read.address.host === address.host && read.address.path === address.path;
  // A way back to the sign-in page itself would grow with every hop and hide the loop.
  if (isSignInPage) return asked;
  const separator = site.signIn!.includes('?') ? '&' : '?';
  return `${site.signIn}${separator}${RETURN_FIELD}=${encodeURIComponent(asked)}`;
}
