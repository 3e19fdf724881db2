import { entriesOf } from '../comparison/entries.ts';
import { countedIn } from '../condition/product-terms.ts';
import { productsIn } from '../decision/offer.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A product that no rule asks for, nor for anything in it: whoever buys it gets nothing. */
export function productUnused({ prepared }: InspectionContext): FindingDraft[] {
  const { site, names } = prepared;
  if (Object.keys(site.products).length === 0) return [];
  const conditions = [
    ...entriesOf(site)
      .filter(({ section }) => section !== 'audiences')
      .flatMap((entry) => entry.conditions),
    ...site.redirects.flatMap(({ when }) => when ?? []),
    ...(site.fullAccess === null ? [] : [site.fullAccess]),
  ];
  const counting = new Set(
    conditions
      .flatMap((one) => productsIn(one, names))
      .flatMap((one) => countedIn(one, names.products)),
  );
  return Object.entries(site.products)
    .filter(([name]) => !counting.has(name))
    .map(([name, { title, place }]) => ({
      code: 'product-unused',
      severity: 'low',
      subject: { kind: 'product', name },
      place,
      values: { product: title },
    }));
}
