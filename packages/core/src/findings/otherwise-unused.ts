import type { Condition } from '../model/condition.ts';
import { clausesOf } from '../condition/clauses.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** An entry of "otherwise" that nobody can come to: the gate or the entries before it take everyone. */
export function otherwiseUnused({ prepared }: InspectionContext): FindingDraft[] {
  return prepared.site.gates.flatMap((gate) =>
    gate.otherwise.flatMap((step, position): FindingDraft[] => {
      const before = gate.otherwise
        .slice(0, position)
        .map(({ who }): Condition => ({ is: 'not', of: who }));
      const left: Condition = {
        is: 'and',
        of: [{ is: 'not', of: gate.admit }, ...before, step.who],
      };
      if (clausesOf(left, prepared.names)?.length !== 0) return [];
      return [
        {
          code: 'otherwise-unused',
          severity: 'low',
          subject: { kind: 'gate', name: gate.name },
          place: gate.place,
          values: { gate: gate.name, entry: position + 1, condition: step.who },
          fix: [{ op: 'remove', path: pointer('gates', gate.name, 'otherwise', position) }],
        },
      ];
    }),
  );
}
