import { withFinalSlash } from '../address/tidy.ts';
import type { Address } from '../address/address.ts';
import { rulesAt } from '../pattern/pattern-index.ts';
import { visiblePrimary } from './concealment.ts';
import type { DecisionContext } from './decision.ts';

/**
 * Where a redirect to an address leads at once. An alias that has a redirect of its own is left to it: what
 * becomes of it must not depend on how one comes there.
 */
export function pathInOneHop(context: DecisionContext, address: Address): string {
  const { redirects, site } = context.prepared;
  const primary = visiblePrimary(context, address);
  const isLeft =
    primary !== undefined && rulesAt(redirects, address.path, address.query).length > 0;
  return isLeft
    ? withFinalSlash(address.path, address.requestedPath, site.tidy)
    : tidyPath(context, address, primary);
}

/** The path of the primary address, spelled as the site spells its addresses. */
export const tidyPath = (
  { prepared: { site } }: DecisionContext,
  { path, requestedPath }: Address,
  primary: string | undefined,
): string => withFinalSlash(primary ?? path, primary ?? requestedPath, site.tidy);
