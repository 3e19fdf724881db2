import { setsOfProducts, soldFor } from '../decision/offer.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { leftFor } from './otherwise-unused.ts';

/** A gate offers what would admit, and no product that is sold somewhere would. */
export function offersNothing({ prepared, explorer }: InspectionContext): FindingDraft[] {
  const { atoms } = explorer;
  const { gates, products } = prepared.site;
  return gates
    .filter((gate) => {
      const offers = gate.otherwise.flatMap((step, position) =>
        step.do === 'offer' ? [leftFor(explorer, gate, position)] : [],
      );
      if (offers.length === 0) return false;
      const admitted = atoms.setOf(gate.admit, null);
      const asked = atoms.sets.anyOf(offers);
      const sold = soldFor(products, gate.admit, prepared.names);
      return setsOfProducts(sold).every(
        (set) => !atoms.isAnyone(atoms.sets.and(asked, atoms.buyersIn(admitted, set))),
      );
    })
    .map(({ name, place }) => ({
      code: 'offers-nothing',
      severity: 'medium' as const,
      subject: { kind: 'gate', name },
      place,
      values: { gate: name },
    }));
}
