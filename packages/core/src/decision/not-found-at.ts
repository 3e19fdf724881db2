import { withSingleSlashes } from '../address/segments.ts';
import type { Visitor } from '../model/visitor.ts';
import { decisionContext } from './decide.ts';
import type { Content } from './decision.ts';
import { answerMissing } from './not-found.ts';
import type { PreparedSite } from './prepared-site.ts';
import { siteAddress } from './site-address.ts';

/**
 * What is shown at an address where the website itself found nothing, whatever the rules say of it.
 * @param address as in a request
 * @param at the moment, in milliseconds since 1970
 */
export function notFoundAt(
  prepared: PreparedSite,
  address: string,
  visitor: Visitor,
  at: number,
): { status: number; content: Content | null } {
  const context = decisionContext(prepared, { method: 'GET', address }, visitor, at);
  const { status, content = null } = answerMissing(context);
  return { status, content };
}

/**
 * What the website is asked for where an address is served as it is: the address as it was judged, so
 * that the website can't read it another way.
 * @returns a path with query; null for what is no address
 */
export function websiteAddress(prepared: PreparedSite, address: string): string | null {
  const read = siteAddress(prepared, address);
  if (!read.ok) return null;
  const { query } = read.address;
  const path = withSingleSlashes(read.address.requestedPath);
  return query === '' ? path : `${path}?${query}`;
}
