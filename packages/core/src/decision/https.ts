import type { DecisionContext, Ending } from './decision.ts';
import type { Page } from '../model/site.ts';
import type { Reason } from '../model/reason.ts';
import { visiblePage } from './concealment.ts';
import { pathInOneHop } from './redirect.ts';

const SECURE: Reason = {
  stage: 'https',
  rule: null,
  verdict: 'passed',
  code: 'protocol-as-required',
  values: {},
  place: null,
};

/** Sends a request to HTTPS where the site or the page requires it. */
export function httpsStage(context: DecisionContext): Ending | null {
  const { site } = context.prepared;
  const { protocol, host } = context.address;
  if (isEncrypted(context) || host !== site.host) {
    context.reasons.push(SECURE);
    return null;
  }
  const isTriedOut = protocol === 'https:';
  const isForSite = site.protocol === 'https:' && !isTriedOut;
  const page = isForSite ? null : visiblePage(context, context.address)?.rule.page;
  if (!isForSite && !page?.https) {
    context.reasons.push(SECURE);
    return null;
  }
  return toHttps(context, page ?? null);
}

/** Whether a request came over HTTPS. */
export const isEncrypted = ({ request, address }: DecisionContext): boolean =>
  (request.protocol ?? address.protocol) === 'https:';

/** The redirect to HTTPS that a page requires; or the whole site, where no page is given. */
export function toHttps(context: DecisionContext, page: Page | null): Ending {
  context.reasons.push({
    stage: 'https',
    rule: page ? `page ${page.address}` : 'site address',
    verdict: 'redirected',
    ...(page
      ? { code: 'page-requires-https', values: { page: page.address } }
      : { code: 'site-requires-https', values: {} }),
    place: page?.place ?? null,
  });
  const { host, query } = context.address;
  const location = `https://${host}${pathInOneHop(context, context.address)}${query === '' ? '' : `?${query}`}`;
  return { outcome: 'redirect', status: 308, location, permanent: true };
}
