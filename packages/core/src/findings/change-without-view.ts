import { gatesIn, reachOf } from '../reach/reach.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** Someone may change a page that they may not see. */
export function changeWithoutView({ prepared, explorer }: InspectionContext): FindingDraft[] {
  const gates = new Map(prepared.site.gates.map((gate) => [gate.name, gate]));
  if (![...gates.values()].some(({ right }) => right === 'change')) return [];
  const seen = new Set<string>();
  return prepared.site.pages.flatMap((page): FindingDraft[] =>
    explorer.familiesOf(page).flatMap((family): FindingDraft[] => {
      const change = reachOf(explorer, page, family, 'change');
      const gate = gates.get(gatesIn(change.parts)[0] ?? '');
      if (gate?.right !== 'change' || seen.has(gate.name)) return [];
      const { sets } = change.explorer.atoms;
      const view = reachOf(explorer, page, family);
      const who = change.explorer.describe(
        sets.without(
          sets.or(change.visitors, change.byFullAccess),
          sets.or(view.visitors, view.byFullAccess),
        ),
      );
      if (who === null) return [];
      seen.add(gate.name);
      return [
        {
          code: 'change-without-view',
          severity: 'medium',
          subject: { kind: 'gate', name: gate.name },
          place: gate.place,
          values: { gate: gate.name, who, page: page.address },
        },
      ];
    }),
  );
}
