import { isView, type DecisionContext, type Ending } from './decision.ts';
import { siteAddress } from './site-address.ts';

/** Sends on from a page that only leads elsewhere. */
export function leadStage(context: DecisionContext): Ending | null {
  const found = context.found;
  if (!found?.exists || found.page.leadsTo === null) return null;
  const { page } = found;
  const location = page.leadsTo!;
  context.reasons.push({
    stage: 'lead',
    rule: `page ${page.address}`,
    verdict: 'redirected',
    code: 'page-leads-to',
    values: { page: page.address, location },
    place: page.place,
  });
  const read = siteAddress(context.prepared, location);
  const isAway = read.ok && !context.prepared.hosts.has(read.address.host);
  const status = isView(context.request.method) ? 302 : 307;
  return { outcome: isAway ? 'away' : 'redirect', status, location };
}
