import { canonicalPath } from '../address/canonical-path.ts';
import { isView, type DecisionContext, type Ending } from './decision.ts';
import { visiblePrimary } from './concealment.ts';
import { tidyPath } from './locations.ts';
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
  const { address } = context;
  if (!address.isHome) {
    context.reasons.push(TIDY);
    return null;
  }
  const primary = visiblePrimary(context, address);
  const path = tidyPath(context, address, primary);
  const isOneForm = path === address.requestedPath || path === folded(address.requestedPath);
  if (isOneForm && !address.isRespelled) {
    context.reasons.push(TIDY);
    return null;
  }
  context.reasons.push({
    stage: 'tidy',
    rule: primary !== undefined ? `page ${path}` : 'site tidy',
    verdict: 'redirected',
    ...(primary !== undefined
      ? { code: 'other-address', values: { address: address.path, primary: path } }
      : { code: 'other-spelling', values: { path } }),
    place: null,
  });
  const location = `${path}${address.query === '' ? '' : `?${address.query}`}`;
  const status = isView(context.request.method) ? 301 : 308;
  return { outcome: 'redirect', status, location, permanent: true };
}

/** Letters that Unicode takes for the same are one address, and the website is asked for the one that was sent. */
const folded = (path: string): string =>
  path.includes('%') ? canonicalPath(path, { fold: true })! : path;
