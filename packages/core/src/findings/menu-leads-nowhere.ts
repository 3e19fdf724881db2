import { pointer } from '../site/yaml/pointer.ts';
import type { People } from '../model/finding.ts';
import type { Explorer } from '../explore/explorer.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { isOwnAddress } from '../decision/site-address.ts';
import { visitorsOfMenu } from './menu-visitors.ts';

/** A menu that shows everything leads some of the visitors who see it to a refusal, or to a missing page. */
export function menuLeadsNowhere(inspected: InspectionContext): FindingDraft[] {
  const { prepared, explorer } = inspected;
  const whole = prepared.site.menus.filter(({ onlyUsable }) => !onlyUsable);
  return whole.flatMap((menu) => {
    const seenBy = visitorsOfMenu(inspected, menu);
    const lost = menu.links.flatMap((link): { link: string; who: People }[] => {
      const who = isOwnAddress(prepared, link) ? turnedAway(explorer, link, seenBy) : null;
      return who === null ? [] : [{ link, who }];
    });
    if (lost.length === 0) return [];
    const fix = [
      { op: 'add' as const, path: pointer('menus', menu.name, 'shows'), value: 'usable' },
    ];
    return [
      {
        code: 'menu-leads-nowhere' as const,
        severity: 'medium' as const,
        subject: { kind: 'menu', name: menu.name },
        place: menu.place,
        values: { menu: menu.name, links: lost },
        fix,
      },
    ];
  });
}

/** Returns the visitors who are refused, or find nothing. For guests, a request to sign in is no refusal. */
function turnedAway(explorer: Explorer, link: string, seenBy: number): People | null {
  const { atoms } = explorer;
  const { sets } = atoms;
  const parts = explorer.partsOf(link);
  const asked = explorer.visitorsOf(parts, ({ end }) => end.outcome === 'sign-in');
  const lost = sets.without(explorer.lostAt(link), sets.and(asked, atoms.guests));
  return explorer.describe(sets.and(seenBy, lost));
}
