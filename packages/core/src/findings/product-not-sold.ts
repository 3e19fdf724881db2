import { countedIn } from '../condition/product-terms.ts';
import { walk } from '../model/condition.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A gate admits the buyers of a product that nobody can buy: it is sold nowhere, nor is a bundle that includes it. */
export function productNotSold({ prepared }: InspectionContext): FindingDraft[] {
  const { site, names } = prepared;
  const isSold = (product: string): boolean =>
    countedIn(product, names.products).some((one) => site.products[one]?.buyAt != null);
  return site.gates.flatMap(({ name, admit, place }): FindingDraft[] => {
    const asked = new Set<string>();
    walk(admit, (inner) => {
      const condition = inner.is === 'audience' ? names.audiences.get(inner.name) : inner;
      // What was sold once may still admit those who ever bought it.
      if (condition?.is === 'bought' && condition.state === 'in-force')
        asked.add(condition.product);
    });
    return [...asked]
      .filter((product) => !isSold(product))
      .map((product) => ({
        code: 'product-not-sold',
        severity: 'medium',
        subject: { kind: 'gate', name },
        place,
        values: { gate: name, product: site.products[product]?.title ?? product },
      }));
  });
}
