import { countedIn, type Products } from '../condition/product-terms.ts';
import type { AskedPurchase, Condition } from '../model/condition.ts';
import { NONE, type VisitorSets } from './visitor-sets.ts';

/** A condition on the purchases of a product. */
export type AskedOfProduct = Extract<Condition, { is: 'bought' }>;

/**
 * What is possible together of purchases: whoever bought a bundle bought what is in it, so that how the bundle stands
 * is how that stands, unless another purchase of it is in force.
 *
 * @param asked the conditions that were asked about
 * @param setOf those for whom one of them holds
 */
export function purchaseTies(
  sets: VisitorSets,
  products: Products,
  asked: readonly AskedOfProduct[],
  setOf: (condition: AskedOfProduct) => number,
): number {
  const setIn = (product: string, state: AskedPurchase): number | null => {
    const condition = asked.find((one) => one.product === product && one.state === state);
    return condition ? setOf(condition) : null;
  };
  return sets.allOf(
    asked.flatMap((condition) => {
      const { product, state } = condition;
      const inForce = state === 'ever' ? NONE : (setIn(product, 'in-force') ?? NONE);
      return countedIn(product, products)
        .filter((bundle) => bundle !== product)
        .flatMap((bundle) => {
          const ofBundle = setIn(bundle, state);
          return ofBundle === null
            ? []
            : [sets.anyOf([sets.not(ofBundle), setOf(condition), inForce])];
        });
    }),
  );
}
