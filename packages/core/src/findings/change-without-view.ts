import { NONE } from '../explore/visitor-sets.ts';
import { reachOf } from '../reach/reach.ts';
import type { VisitEnd } from '../visit/visit.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** Someone may change a page that they may not see. */
export function changeWithoutView({
  prepared,
  explorer,
  familiesOf,
}: InspectionContext): FindingDraft[] {
  const gates = new Map(prepared.site.gates.map((gate) => [gate.name, gate]));
  if (![...gates.values()].some(({ right }) => right === 'change')) return [];
  const seen = new Set<string>();
  return prepared.site.pages.flatMap((page): FindingDraft[] =>
    familiesOf(page).flatMap((family): FindingDraft[] => {
      const change = reachOf(explorer, page, family, 'change');
      const view = reachOf(explorer, page, family);
      const { sets } = change.explorer.atoms;
      const admitted = new Map<string, number>();
      for (const { visitors, end } of change.parts) {
        const name = end.outcome === 'reach' ? admittedBy(end) : null;
        if (name === null || gates.get(name)?.right !== 'change' || seen.has(name)) continue;
        const unseen = sets.without(visitors, sets.or(view.visitors, view.byFullAccess));
        admitted.set(name, sets.or(admitted.get(name) ?? NONE, unseen));
      }
      return [...admitted].flatMap(([name, visitors]): FindingDraft[] => {
        const who = change.explorer.describe(visitors);
        if (who === null) return [];
        seen.add(name);
        return [
          {
            code: 'change-without-view',
            severity: 'medium',
            subject: { kind: 'gate', name },
            place: gates.get(name)!.place,
            values: { gate: name, who, page: page.address },
          },
        ];
      });
    }),
  );
}

/** The gate that was asked last, the nearest one; null where none stands. */
function admittedBy({ hops }: VisitEnd): string | null {
  const { reasons } = hops.at(-1)!.decision;
  const last = reasons.findLast(({ stage, verdict }) => stage === 'gate' && verdict === 'admitted');
  return last?.rule?.replace(/^gate /, '') ?? null;
}
