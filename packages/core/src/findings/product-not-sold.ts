import { countedIn } from '../condition/product-terms.ts';
import { askedPurchasesIn } from '../decision/offer.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A gate would admit a visitor for a purchase that nobody can make: neither the product nor a bundle with it is sold. */
export function productNotSold({ prepared, explorer }: InspectionContext): FindingDraft[] {
  const { site, names } = prepared;
  const isSold = (product: string): boolean =>
    countedIn(product, names.products).some((one) => site.products[one]?.buyAt != null);
  return site.gates.flatMap(({ name, admit, place }): FindingDraft[] => {
    const { atoms } = explorer;
    // A condition may ask for a product only to keep its buyers out.
    const isWanted = (product: string): boolean => {
      const admitted = atoms.setOf(admit, null);
      const [bought, signedIn] = [[product], []].map((all) => atoms.buyersIn(admitted, all));
      return atoms.isAnyone(atoms.sets.without(bought!, signedIn!));
    };
    // A product that was sold once may still admit visitors who ever bought it.
    const asked = askedPurchasesIn(admit, names).filter(({ state }) => state === 'in-force');
    return [...new Set(asked.map(({ product }) => product))]
      .filter((product) => !isSold(product) && isWanted(product))
      .map((product) => ({
        code: 'product-not-sold',
        severity: 'medium',
        subject: { kind: 'gate', name },
        place,
        values: { gate: name, product: site.products[product]?.title ?? product },
      }));
  });
}
