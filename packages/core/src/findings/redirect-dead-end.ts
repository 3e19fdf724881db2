import type { PreparedSite } from '../decision/prepared-site.ts';
import { siteAddress } from '../decision/site-address.ts';
import type { VisitEnd } from '../visit/visit.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import {
  findWay,
  isFilled,
  partsThat,
  redirectSamples,
  sentAway,
  sentTo,
} from './redirect-samples.ts';

/** The target of a redirect is no page; if it is filled with pieces of the address, none of the targets is. */
export function redirectDeadEnd(inspected: InspectionContext): FindingDraft[] {
  const { prepared } = inspected;
  const ending = partsThat(({ end }) => end.outcome === 'missing' && isNoPage(prepared, end));
  return redirectSamples(inspected).flatMap((sample): FindingDraft[] => {
    const { redirect, ways } = sample;
    const found = findWay(sample, ending);
    if (found === null) return [];
    const { way, part } = found;
    const isForAll = ways.every((one) => {
      const { atoms } = one.explorer;
      return !atoms.isAnyone(atoms.sets.without(sentAway(one), sentTo(one, ending)));
    });
    if (isFilled(redirect) && !isForAll) return [];
    return [
      {
        code: 'redirect-dead-end',
        severity: 'medium',
        subject: { kind: 'redirect', name: redirect.source },
        place: redirect.place,
        values: {
          source: redirect.source,
          location: part.end.final,
          who: isForAll ? null : way.explorer.describe(sentTo(way, ending)),
        },
      },
    ];
  });
}

/** Whether a visit ends where no page is declared. A page that is hidden, or closed at the moment, is there. */
function isNoPage(prepared: PreparedSite, { hops, final }: VisitEnd): boolean {
  const read = siteAddress(prepared, final);
  if (!read.ok) return false;
  const { isHome, page } = read.address;
  if (!isHome) return true;
  if (page !== null || prepared.site.undeclared === 'website') return false;
  const rewritten = hops.at(-1)!.decision.reasons.find(({ code }) => code === 'rewritten');
  if (rewritten?.code !== 'rewritten') return true;
  const served = siteAddress(prepared, rewritten.values.location);
  return served.ok && served.address.isHome && served.address.page === null;
}
