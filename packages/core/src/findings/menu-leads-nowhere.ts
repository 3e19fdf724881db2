import type { Condition } from '../model/condition.ts';
import { pointer } from '../site/yaml/pointer.ts';
import { findExcluded } from '../reach/find-excluded.ts';
import { closureAt, conditionOf, NOT_THERE, pageAt } from '../reach/who-reaches.ts';
import type { Menu } from '../model/site.ts';
import { visit } from '../visit/visit.ts';
import type { People } from '../model/finding.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { GUEST } from '../model/visitor.ts';

/** A menu that shows everything leads some of those who see it to a refusal, or to nothing. */
export function menuLeadsNowhere({ prepared, at }: InspectionContext): FindingDraft[] {
  const whole = prepared.site.menus.filter(({ onlyUsable }) => !onlyUsable);
  return whole.flatMap((menu) => {
    const seenBy = seersOf({ prepared, at }, menu);
    const lost = menu.links.flatMap((link): { link: string; who: People }[] => {
      const who = turnedAway({ prepared, at }, link, seenBy);
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

/** Everyone who reaches a page on which the menu stands. */
function seersOf({ prepared, at }: InspectionContext, { on }: Menu): Condition {
  const pages = on.map((address) => pageAt(prepared, address));
  const conditions = pages.map((found): Condition =>
    found === null
      ? { is: 'anyone' }
      : conditionOf(prepared, found.rule.page, at, 'view').condition,
  );
  return conditions.length === 0 ? { is: 'anyone' } : { is: 'or', of: conditions };
}

/** Who of them is refused, or told that nothing is there; to be asked to sign in is no refusal. */
function turnedAway(
  { prepared, at }: InspectionContext,
  link: string,
  seenBy: Condition,
): People | null {
  if (!link.startsWith('/')) return null;
  const found = pageAt(prepared, link.replace(/[?#].*$/, ''));
  const { outcome } = visit(prepared, { method: 'GET', address: link }, GUEST, at);
  const isAsked = outcome === 'sign-in';
  if (found === null) return outcome === 'missing' ? 'everyone' : null;
  const isThere = closureAt(found.rule.page, at) === null;
  const reach = isThere ? conditionOf(prepared, found.rule.page, at, 'view') : NOT_THERE;
  const among: Condition = isAsked ? { is: 'and', of: [seenBy, { is: 'signed-in' }] } : seenBy;
  return findExcluded(prepared, among, reach.condition, reach.byFullAccess);
}
