import { pageAt } from '../decision/page-at.ts';
import type { Menu } from '../model/site.ts';
import { GUEST } from '../model/visitor.ts';
import { isOpenToEngines } from '../reach/open-to-engines.ts';
import { followRedirects } from '../visit/visit.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { isOwnAddress } from '../decision/site-address.ts';
import { addressesOfMenu } from './menu-visitors.ts';

/** A page kept from search engines stands in a menu on a page that they list, and guests reach it by the menu. */
export function unlistedLinked(inspected: InspectionContext): FindingDraft[] {
  const { prepared, at } = inspected;
  const isRead = (menu: Menu): boolean =>
    addressesOfMenu(inspected, menu).some((example) => {
      const page = pageAt(prepared, example)?.rule.page;
      return page !== undefined && isOpenToEngines(prepared, { ...page, example }, at);
    });
  return prepared.site.menus.flatMap((menu) => {
    const { name, links, place } = menu;
    const unlisted = links.flatMap((link): string[] => {
      if (!isOwnAddress(prepared, link)) return [];
      const request = { method: 'GET', address: link.replace(/#.*$/s, '') };
      const { outcome, final } = followRedirects(prepared, request, GUEST, at);
      const page = outcome === 'reach' ? pageAt(prepared, final)?.rule.page : undefined;
      return page && !page.listed ? [page.address] : [];
    });
    if (unlisted.length === 0 || !isRead(menu)) return [];
    return [...new Set(unlisted)].map((page): FindingDraft => ({
      code: 'unlisted-linked',
      severity: 'medium',
      subject: { kind: 'menu', name },
      place,
      values: { page, menu: name },
    }));
  });
}
