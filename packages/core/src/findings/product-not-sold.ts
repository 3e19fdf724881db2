import { countedIn } from '../condition/product-terms.ts';
import { askedPurchasesIn } from '../decision/offer.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A gate admits the buyers of a product that nobody can buy: it is sold nowhere, nor is a bundle that includes it. */
export function productNotSold({ prepared }: InspectionContext): FindingDraft[] {
  const { site, names } = prepared;
  const isSold = (product: string): boolean =>
    countedIn(product, names.products).some((one) => site.products[one]?.buyAt != null);
  return site.gates.flatMap(({ name, admit, place }): FindingDraft[] => {
    // What was sold once may still admit those who ever bought it.
    const asked = askedPurchasesIn(admit, names).filter(({ state }) => state === 'in-force');
    return [...new Set(asked.map(({ product }) => product))]
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
