import type { Explorer } from '../explore/explorer.ts';
import { NONE } from '../explore/visitor-sets.ts';
import type { Gate } from '../model/site.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** An entry of "otherwise" that nobody can come to: the gate or the entries before it take everyone. */
export function otherwiseUnused({ prepared, explorer }: InspectionContext): FindingDraft[] {
  return prepared.site.gates.flatMap((gate) =>
    gate.otherwise.flatMap((step, position): FindingDraft[] =>
      explorer.atoms.isAnyone(leftFor(explorer, gate, position))
        ? []
        : [
            {
              code: 'otherwise-unused',
              severity: 'low',
              subject: { kind: 'gate', name: gate.name },
              place: gate.place,
              values: { gate: gate.name, entry: position + 1, condition: step.who },
              fix: [{ op: 'remove', path: pointer('gates', gate.name, 'otherwise', position) }],
            },
          ],
    ),
  );
}

/** Those whom one entry of a gate is for: not admitted, and fitting no entry before it; at whatever address. */
export function leftFor({ atoms, prepared }: Explorer, gate: Gate, position: number): number {
  const { sets } = atoms;
  const { fullAccess } = prepared.site;
  const before = gate.otherwise.slice(0, position).map(({ who }) => who);
  const passes = gate.fullAccess && fullAccess !== null ? atoms.setOf(fullAccess, null) : NONE;
  return sets.without(
    atoms.setOf(gate.otherwise[position]!.who, null),
    sets.anyOf([passes, ...[gate.admit, ...before].map((one) => atoms.setOf(one, null))]),
  );
}
