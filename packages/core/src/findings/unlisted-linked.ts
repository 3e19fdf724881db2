import { pageAt } from '../decision/page-at.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A page kept from search engines stands in a menu on pages that they list: they find it there. */
export function unlistedLinked({ prepared }: InspectionContext): FindingDraft[] {
  return prepared.site.menus.flatMap(({ name, links, on, place }) => {
    const standsOn = on.map((address) => pageAt(prepared, address)?.rule.page);
    const isOnListed = on.length === 0 || standsOn.some((page) => page?.listed !== false);
    if (!isOnListed) return [];
    return links.flatMap((link): FindingDraft[] => {
      const page = link.startsWith('/') ? pageAt(prepared, link.replace(/[?#].*$/, '')) : null;
      if (page === null || page.rule.page.listed) return [];
      return [
        {
          code: 'unlisted-linked',
          severity: 'medium',
          subject: { kind: 'menu', name: name },
          place,
          values: { page: page.rule.page.address, menu: name },
        },
      ];
    });
  });
}
