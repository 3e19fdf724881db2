import type { PreparedSite } from '../decision/prepared-site.ts';
import type { Page } from '../model/site.ts';
import { GUEST } from '../model/visitor.ts';
import { followRedirects } from '../visit/visit.ts';

/**
 * Whether search engines may list a page, and a guest reaches it without being sent on.
 *
 * @param at the moment, in milliseconds since 1970
 */
export function isOpenToEngines(
  prepared: PreparedSite,
  { listed, example }: Page,
  at: number,
): boolean {
  if (!listed) return false;
  const ended = followRedirects(prepared, { method: 'GET', address: example }, GUEST, at);
  return ended.outcome === 'reach' && ended.hops.length === 1;
}
