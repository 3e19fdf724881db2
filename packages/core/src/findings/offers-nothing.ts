import { clausesOf } from '../condition/clauses.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A gate offers what would admit, and no product that is sold somewhere would. */
export function offersNothing({ prepared }: InspectionContext): FindingDraft[] {
  const { gates, products } = prepared.site;
  return gates
    .filter(({ otherwise }) => otherwise.some((step) => step.do === 'offer'))
    .filter(({ admit }) => {
      const clauses = clausesOf(admit, prepared.names);
      return clauses?.every(
        (clause) =>
          ![...clause.values()].some(
            ({ atom, holds }) =>
              holds && atom.is === 'bought' && products[atom.product]?.buyAt != null,
          ),
      );
    })
    .map(({ name, place }) => ({
      code: 'offers-nothing',
      severity: 'medium' as const,
      subject: { kind: 'gate', name: name },
      place,
      values: { gate: name },
    }));
}
