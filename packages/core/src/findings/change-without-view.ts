import { findExcluded } from '../reach/find-excluded.ts';
import { conditionOf } from '../reach/who-reaches.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** Someone may change a page that they may not see. */
export function changeWithoutView({ prepared, at }: InspectionContext): FindingDraft[] {
  const seen = new Set<string>();
  return prepared.site.pages.flatMap((page): FindingDraft[] => {
    const change = conditionOf(prepared, page, at, 'change');
    const [name] = change.gates;
    const gate = prepared.site.gates.find((one) => one.name === name && one.right === 'change');
    if (!gate || seen.has(gate.name)) return [];
    const view = conditionOf(prepared, page, at, 'view');
    const who = findExcluded(prepared, change.condition, view.condition, view.byFullAccess);
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
  });
}
