import { walk, type Condition } from '../model/condition.ts';
import type { Names } from '../condition/evaluate.ts';
import type { Product } from '../model/site.ts';
import type { Visitor } from '../model/visitor.ts';
import type { Offer } from './decision.ts';

/** More products than these are not looked at together: nobody buys so many to see a page. */
const MOST_TOGETHER = 4;
const MOST_PRODUCTS = 12;

/**
 * The smallest sets of products that would admit a visitor, were all of a set bought: none of them has
 * another one in it. The fewest products come first.
 *
 * @param admit the condition that must hold
 * @param admits whether it holds for a visitor
 */
export function smallestOffers(
  products: Readonly<Record<string, Product>>,
  admit: Condition,
  names: Names,
  visitor: Visitor,
  admits: (visitor: Visitor) => boolean,
): Offer[][] {
  const sold = productsIn(admit, names).flatMap((product): Offer[] => {
    const { title, buyAt } = products[product] ?? {};
    return title !== undefined && buyAt != null ? [{ product, title, buyAt }] : [];
  });
  const found: Offer[][] = [];
  for (const set of setsOfProducts(sold)) {
    const isLarger = found.some((smaller) => smaller.every((one) => set.includes(one)));
    const bought = set.map(({ product }) => product);
    if (!isLarger && admits(buyerOf(visitor, bought))) found.push(set);
  }
  return found;
}

/** The sets of products that are looked at together, the smallest first. */
export function setsOfProducts<T>(products: readonly T[]): T[][] {
  const sold = products.slice(0, MOST_PRODUCTS);
  const sizes = Array.from({ length: Math.min(MOST_TOGETHER, sold.length) }, (_, i) => i + 1);
  return sizes.flatMap((size) => [...subsets(sold, size)]);
}

/** The products that a condition asks for, audiences opened; in the order in which it names them. */
export function productsIn(condition: Condition, names: Names, seen = new Set<string>()): string[] {
  const products: string[] = [];
  walk(condition, (inner) => {
    if (inner.is === 'bought') products.push(inner.product);
    const audience = inner.is === 'audience' ? names.audiences.get(inner.name) : undefined;
    if (inner.is !== 'audience' || !audience || seen.has(inner.name)) return;
    seen.add(inner.name);
    products.push(...productsIn(audience, names, seen));
  });
  return [...new Set(products)];
}

function* subsets<T>(items: readonly T[], size: number, from = 0): Generator<T[]> {
  if (size === 0) {
    yield [];
    return;
  }
  for (let i = from; i <= items.length - size; i++)
    for (const rest of subsets(items, size - 1, i + 1)) yield [items[i]!, ...rest];
}

/** A visitor who has bought some products besides, and signed in for it. */
export const buyerOf = (visitor: Visitor, products: readonly string[]): Visitor => ({
  ...visitor,
  guest: false,
  bought: [
    ...visitor.bought,
    ...products.map((product) => ({
      product,
      from: null,
      until: null,
      refunded: false,
      paused: false,
    })),
  ],
});
