import type { Address } from '../address/address.ts';
import type { PreparedSite } from './prepared-site.ts';
import { siteAddress } from './site-address.ts';

/** The name of the query field that carries the return address. */
const RETURN_FIELD = 'return';

/** Where a guest is asked to sign in, with the return address. */
export function signInLocation(prepared: PreparedSite, address: Address): string {
  const { site } = prepared;
  const returnAddress =
    address.query === '' ? address.requestedPath : `${address.requestedPath}?${address.query}`;
  const read = siteAddress(prepared, site.signIn!);
  const isSignInPage =
    read.ok && read.address.host === address.host && read.address.path === address.path;
  // A return address that is the sign-in page itself would grow with every hop and hide the loop.
  if (isSignInPage) return returnAddress;
  const separator = site.signIn!.includes('?') ? '&' : '?';
  return `${site.signIn}${separator}${RETURN_FIELD}=${encodeURIComponent(returnAddress)}`;
}
