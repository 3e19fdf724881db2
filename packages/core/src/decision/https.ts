import type { Deciding, Ending } from './decision.ts';
import type { Page } from '../model/site.ts';
import type { Reason } from './reason.ts';
import { unlessHidden } from './hidden.ts';
import { lookUp } from '../pattern/pattern-index.ts';
import { pathInOneHop } from './tidy.ts';

const SECURE: Reason = {
  stage: 'https',
  rule: null,
  verdict: 'passed',
  text: 'The request came as the page asks.',
  place: null,
};

/** Sends a request to HTTPS where the site or the page requires it. */
export function httpsStage(on: Deciding): Ending | null {
  const { site } = on.prepared;
  const { protocol, host } = on.address;
  if (isEncrypted(on) || host !== site.host) {
    on.reasons.push(SECURE);
    return null;
  }
  const isTriedOut = protocol === 'https:';
  const isForSite = site.protocol === 'https:' && !isTriedOut;
  const page = isForSite ? null : pageAt(on);
  if (!isForSite && !page?.https) {
    on.reasons.push(SECURE);
    return null;
  }
  return toHttps(on, page ?? null);
}

/** The page at the address, whether it is there for this visitor now or not. */
const pageAt = ({ prepared, address }: Deciding): Page | undefined =>
  lookUp(prepared.pages, address.path)[0]?.rule.page;

/** Whether a request came over HTTPS. */
export const isEncrypted = ({ request, address }: Deciding): boolean =>
  (request.protocol ?? address.protocol) === 'https:';

/** The redirect to HTTPS that a page requires; or the whole site, where no page is given. */
export function toHttps(on: Deciding, page: Page | null): Ending {
  on.reasons.push({
    stage: 'https',
    rule: page ? `page ${page.address}` : 'site address',
    verdict: 'redirected',
    text: page
      ? `The page ${page.address} is only to be had over HTTPS.`
      : 'This site is only to be had over HTTPS.',
    place: page?.place ?? null,
  });
  const { host, query } = on.address;
  const location = `https://${host}${pathInOneHop(on.prepared, on.address)}${query === '' ? '' : `?${query}`}`;
  const ending: Ending = { outcome: 'redirect', status: 308, location, permanent: true };
  return page ? unlessHidden(on, ending) : ending;
}
