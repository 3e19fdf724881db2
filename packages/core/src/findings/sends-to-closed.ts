import type { Condition } from '../model/condition.ts';
import { findExcluded } from '../reach/find-excluded.ts';
import { closureAt, conditionOf, NOT_THERE, pageAt } from '../reach/who-reaches.ts';
import type { Gate } from '../model/site.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A gate sends people to a page that they can't see either: they are lost, or go round and round. */
export function sendsToClosed({ prepared, at }: InspectionContext): FindingDraft[] {
  return prepared.site.gates.flatMap((gate) =>
    gate.otherwise.flatMap((step, position): FindingDraft[] => {
      if (step.do !== 'send' || !step.to.startsWith('/')) return [];
      const found = pageAt(prepared, step.to.replace(/[?#].*$/, ''));
      if (found === null && prepared.site.undeclared === 'website') return [];
      const isThere = found !== null && closureAt(found.rule.page, at) === null;
      const seen = isThere ? conditionOf(prepared, found.rule.page, at, 'view') : NOT_THERE;
      const who = findExcluded(
        prepared,
        sentBy(gate, position),
        seen.condition,
        // Whom an exempt gate refuses full access did not help; elsewhere nobody with it is sent.
        gate.fullAccess || seen.byFullAccess,
      );
      if (who === null) return [];
      return [
        {
          code: 'sends-to-closed',
          severity: 'high',
          subject: { kind: 'gate', name: gate.name },
          place: gate.place,
          values: { gate: gate.name, to: step.to, who: isThere ? who : null },
        },
      ];
    }),
  );
}

/** Those whom one step of a gate is for: not admitted, and fitting no step before it. */
function sentBy({ admit, otherwise }: Gate, position: number): Condition {
  const before = otherwise.slice(0, position).map(({ who }): Condition => ({ is: 'not', of: who }));
  return { is: 'and', of: [{ is: 'not', of: admit }, otherwise[position]!.who, ...before] };
}
