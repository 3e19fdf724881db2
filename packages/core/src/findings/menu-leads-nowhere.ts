import type { Explorer } from '../explore/explorer.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { Menu } from '../model/site.ts';
import type { People } from '../model/finding.ts';
import { sectionTest } from '../grid/grid.ts';
import { ALL } from '../explore/visitor-sets.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A menu that shows everything leads some of those who see it to a refusal, or to nothing. */
export function menuLeadsNowhere({ prepared, explorer }: InspectionContext): FindingDraft[] {
  const whole = prepared.site.menus.filter(({ onlyUsable }) => !onlyUsable);
  return whole.flatMap((menu) => {
    const seenBy = seersOf(explorer, menu);
    const lost = menu.links.flatMap((link): { link: string; who: People }[] => {
      const who = turnedAway(explorer, link, seenBy);
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
function seersOf(explorer: Explorer, { on }: Menu): number {
  const { pages, tidy } = explorer.prepared.site;
  if (on.length === 0) return ALL;
  const tests = on.map((section) => sectionTest(section, tidy));
  const under = pages.filter(({ example }) => tests.some((isIn) => isIn(example)));
  if (under.length === 0) return ALL;
  return explorer.atoms.sets.anyOf(
    under.map(({ example }) =>
      explorer.visitorsOf(explorer.partsOf(example), ({ end }) => end.outcome === 'reach'),
    ),
  );
}

/** Who of them is refused, or told that nothing is there; for a guest, to be asked to sign in is no refusal. */
function turnedAway(explorer: Explorer, link: string, seenBy: number): People | null {
  if (!link.startsWith('/')) return null;
  const { atoms } = explorer;
  const { sets } = atoms;
  const parts = explorer.partsOf(link);
  const asked = explorer.visitorsOf(parts, ({ end }) => end.outcome === 'sign-in');
  const lost = sets.without(explorer.lostAt(link), sets.and(asked, atoms.guests));
  return explorer.describe(sets.and(seenBy, lost));
}
