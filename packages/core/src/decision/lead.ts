import { readAddress } from '../address/address.ts';
import { isView, type Deciding, type Ending } from './decision.ts';

/** Sends on from a page that only leads elsewhere. */
export function leadStage(on: Deciding): Ending | null {
  const found = on.found;
  if (!found?.exists || found.page.leadsTo === null) return null;
  const { page } = found;
  const location = page.leadsTo!;
  on.reasons.push({
    stage: 'lead',
    rule: `page ${page.address}`,
    verdict: 'redirected',
    text: `The page ${page.address} leads to ${location}.`,
    place: page.place,
  });
  const read = readAddress(location, on.prepared.site, on.prepared.site.tidy);
  const isAway = read.ok && !on.prepared.hosts.has(read.address.host);
  const status = isView(on.request.method) ? 302 : 307;
  return { outcome: isAway ? 'away' : 'redirect', status, location };
}
