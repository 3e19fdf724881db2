import type { Condition } from '../model/condition.ts';

/** What purchases of a product come to. */
export interface ProductTerms {
  /** The products of which a purchase counts: itself, and the bundles that it is part of. */
  readonly countedIn: readonly string[];
  /** How long it is in force after its end, in milliseconds. */
  readonly grace: number;
  /** Whether someone's purchase of it has run out, as a condition. */
  readonly lapsed: Condition;
}

/** The products of a site by their names; of one that is not here, only its own purchases count. */
export type Products = ReadonlyMap<string, ProductTerms> | undefined;

/** The products of which a purchase counts as one of this: itself, and the bundles that it is part of. */
export const countedIn = (product: string, products: Products): readonly string[] =>
  products?.get(product)?.countedIn ?? [product];

/** How long a purchase of a product is in force after its end, in milliseconds. */
export const graceOf = (product: string, products: Products): number =>
  products?.get(product)?.grace ?? 0;

/** Whether purchases of a product come to the same in two states of a site. */
export function isSameProduct(product: string, one: Products, other: Products): boolean {
  const inShort = (products: Products): string =>
    JSON.stringify(countedIn(product, products).map((each) => [each, graceOf(each, products)]));
  return one === other || inShort(one) === inShort(other);
}
