import { walk, type Condition } from '../model/condition.ts';
import type { Names } from '../condition/evaluate.ts';
import { countedIn } from '../condition/product-terms.ts';
import type { Product } from '../model/site.ts';
import type { Visitor } from '../model/visitor.ts';
import type { Offer } from './decision.ts';

/** More products than these are not looked at together: nobody buys so many to see a page. */
const MOST_TOGETHER = 4;
const MOST_PRODUCTS = 12;

/**
 * The smallest sets of products that would admit a visitor, were all of a set bought: none of them has
 * another one in it. The fewest products come first; whoever can renew is offered that alone.
 *
 * @param admit the condition that must hold
 * @param admits whether it holds for a visitor
 * @param holds whether a condition holds for the visitor as they are
 */
export function smallestOffers(
  products: Readonly<Record<string, Product>>,
  admit: Condition,
  names: Names,
  visitor: Visitor,
  admits: (visitor: Visitor) => boolean,
  holds: (condition: Condition) => boolean,
): Offer[][] {
  const found: string[][] = [];
  for (const set of setsOfProducts(soldFor(products, admit, names))) {
    const isLarger = found.some((smaller) => smaller.every((one) => set.includes(one)));
    if (!isLarger && admits(buyerOf(visitor, set))) found.push(set);
  }
  // What makes no difference is not asked: each answer is another case to tell apart.
  const isLapsed = new Map(
    [...new Set(found.flat())].map((product) => {
      const { term, renewAt } = products[product]!;
      const matters = renewAt !== null || (term === 'subscription' && found.length > 1);
      return [product, matters && holds(names.products!.get(product)!.lapsed)];
    }),
  );
  const offers = found.flatMap((set) => {
    const all = set.flatMap((product): Offer[] => {
      const { title, buyAt, renewAt } = products[product]!;
      const isRenewal = isLapsed.get(product)!;
      const address = (isRenewal ? renewAt : null) ?? buyAt;
      return address === null ? [] : [{ product, title, buyAt: address, isRenewal }];
    });
    // What can only be renewed is for those who had it.
    return all.length === set.length ? [all] : [];
  });
  const renewals = offers.filter((set) => set.every(({ isRenewal }) => isRenewal));
  return renewals.length > 0 ? renewals : offers;
}

/** The products, and the bundles that they are part of, that are sold or renewed somewhere and that a condition asks for. */
export function soldFor(
  products: Readonly<Record<string, Product>>,
  admit: Condition,
  names: Names,
): string[] {
  const asked = productsIn(admit, names);
  const counting = asked.flatMap((one) => countedIn(one, names.products));
  return [...new Set([...asked, ...counting])].filter((one) => {
    const product = products[one];
    return product !== undefined && (product.buyAt ?? product.renewAt) !== null;
  });
}

/** The sets of products that are looked at together, the smallest first. */
export function setsOfProducts<T>(products: readonly T[]): T[][] {
  const sold = products.slice(0, MOST_PRODUCTS);
  const sizes = Array.from({ length: Math.min(MOST_TOGETHER, sold.length) }, (_, i) => i + 1);
  return sizes.flatMap((size) => [...subsets(sold, size)]);
}

/** The products that a condition asks for, audiences opened; in the order in which it names them. */
export const productsIn = (condition: Condition, names: Names): string[] => [
  ...new Set(askedPurchasesIn(condition, names).map(({ product }) => product)),
];

type AskedPurchase = Extract<Condition, { is: 'bought' }>;

/** What a condition asks of purchases, audiences opened, and those in them. */
export function askedPurchasesIn(
  condition: Condition,
  names: Names,
  seen = new Set<string>(),
): AskedPurchase[] {
  const asked: AskedPurchase[] = [];
  walk(condition, (inner) => {
    if (inner.is === 'bought') asked.push(inner);
    const audience = inner.is === 'audience' ? names.audiences.get(inner.name) : undefined;
    if (inner.is !== 'audience' || !audience || seen.has(inner.name)) return;
    seen.add(inner.name);
    asked.push(...askedPurchasesIn(audience, names, seen));
  });
  return asked;
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
