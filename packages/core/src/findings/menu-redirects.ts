import { isShownLink } from '../visible/visible.ts';
import type { Decision } from '../decision/decision.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { isOwnAddress } from '../decision/site-address.ts';
import { visitorsOfMenu } from './menu-visitors.ts';

/** Whether an address redirects; a page that leads to another website is there for that. */
const isRedirect = ({ outcome, reasons }: Decision): boolean =>
  reasons.some(
    ({ stage, verdict }) => verdict === 'redirected' && !(stage === 'lead' && outcome === 'away'),
  );

/** A menu links to an address that redirects some of its visitors: each click costs a second request. */
export function menuRedirects(inspected: InspectionContext): FindingDraft[] {
  const { prepared, explorer } = inspected;
  const { sets } = explorer.atoms;
  return prepared.site.menus.flatMap((menu) => {
    const { name, links, place } = menu;
    const seenBy = visitorsOfMenu(inspected, menu);
    return links.flatMap((link): FindingDraft[] => {
      if (!isOwnAddress(prepared, link)) return [];
      const redirected = explorer.partsOf(link).find(({ visitors, end }) => {
        // A menu of usable links leaves the others out.
        if (menu.onlyUsable && !isShownLink(end)) return false;
        return (
          isRedirect(end.hops[0]!.decision) && explorer.atoms.isAnyone(sets.and(seenBy, visitors))
        );
      });
      if (!redirected) return [];
      const { location } = redirected.end.hops[0]!.decision;
      return [
        {
          code: 'menu-redirects',
          severity: 'low',
          subject: { kind: 'menu', name },
          place,
          values: { menu: name, link, location },
        },
      ];
    });
  });
}
