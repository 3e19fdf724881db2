import type { Address } from '../address/address.ts';
import type { PreparedSite } from './prepared-site.ts';
import { siteAddress } from './site-address.ts';

/** The name of the query field that carries the return address. */
const RETURN_FIELD = 'return';

/**
 * Where a visitor signs in or buys, with the address to which they return then: a path, or a whole address for
 * another site.
 *
 * @param target a path, or an absolute URL
 */
export function withReturnAddress(
  prepared: PreparedSite,
  target: string,
  address: Address,
): string {
  const { site } = prepared;
  const path =
    address.query === '' ? address.requestedPath : `${address.requestedPath}?${address.query}`;
  const read = siteAddress(prepared, target);
  const isThere =
    read.ok && read.address.host === address.host && read.address.path === address.path;
  // A return address that is the page itself would grow with every hop and hide the loop.
  if (isThere) return path;
  const returnAddress = target.startsWith('/') ? path : `${site.protocol}//${site.host}${path}`;
  const [page, fragment] = target.split('#', 2) as [string, string?];
  const separator = page.includes('?') ? '&' : '?';
  const location = `${page}${separator}${RETURN_FIELD}=${encodeURIComponent(returnAddress)}`;
  return fragment === undefined ? location : `${location}#${fragment}`;
}
