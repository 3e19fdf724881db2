import { withFinalSlash } from '../address/tidy.ts';
import type { Address } from '../address/address.ts';
import { canonicalPath } from '../address/canonical-path.ts';
import { rulesAt } from '../pattern/pattern-index.ts';
import { isView, type DecisionContext, type Ending } from './decision.ts';
import { unlessHidden } from './hidden.ts';
import type { PreparedSite } from './prepared-site.ts';
import type { Reason } from '../model/reason.ts';

const TIDY: Reason = {
  stage: 'tidy',
  rule: null,
  verdict: 'passed',
  code: 'one-form',
  values: {},
  place: null,
};

/** Sends every other spelling, and every other address, of a page to its primary address: all at once. */
export function tidyStage(context: DecisionContext): Ending | null {
  const { address, prepared } = context;
  if (!address.isHome) {
    context.reasons.push(TIDY);
    return null;
  }
  const path = tidyPath(prepared, address);
  const isOneForm = path === address.requestedPath || path === folded(address.requestedPath);
  if (isOneForm && !address.isRespelled) {
    context.reasons.push(TIDY);
    return null;
  }
  const isAlias = prepared.primary.has(address.path);
  context.reasons.push({
    stage: 'tidy',
    rule: isAlias ? `page ${path}` : 'site tidy',
    verdict: 'redirected',
    ...(isAlias
      ? { code: 'other-address', values: { address: address.path, primary: path } }
      : { code: 'other-spelling', values: { path } }),
    place: null,
  });
  const location = `${path}${address.query === '' ? '' : `?${address.query}`}`;
  const status = isView(context.request.method) ? 301 : 308;
  const ending: Ending = { outcome: 'redirect', status, location, permanent: true };
  return isAlias ? unlessHidden(context, ending) : ending;
}

/** Letters that Unicode takes for the same are one address, and the website is asked for the one that was sent. */
const folded = (path: string): string =>
  path.includes('%') ? canonicalPath(path, { fold: true })! : path;

/**
 * Where a redirect to an address leads at once. An alias that has a redirect of its own is left to it: what
 * becomes of it must not depend on how one comes there.
 */
export function pathInOneHop(prepared: PreparedSite, address: Address): string {
  const { primary, redirects, site } = prepared;
  const isLeft =
    primary.has(address.path) && rulesAt(redirects, address.path, address.query).length > 0;
  return isLeft
    ? withFinalSlash(address.path, address.requestedPath, site.tidy)
    : tidyPath(prepared, address);
}

/** The path of the primary address, spelled as the site spells its addresses. */
function tidyPath(
  { primary, site }: PreparedSite,
  { path, requestedPath: requestedPath }: Address,
): string {
  const other = primary.size === 0 ? undefined : primary.get(path);
  return withFinalSlash(other ?? path, other ?? requestedPath, site.tidy);
}
