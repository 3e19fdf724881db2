import type * as yup from 'yup';
import type { Product } from '../../model/site.ts';
import type { productSchema } from '../fields/page-schemas.ts';
import type { ErrorList, SiteDocument } from '../yaml/document.ts';
import type { FieldReader } from './field-reader.ts';

const SECOND = 1000;

/** Builds a product; what it includes must be there, and where it is sold an address. */
export function buildProduct(
  name: string,
  entry: yup.InferType<typeof productSchema>,
  read: FieldReader,
  document: SiteDocument,
): Product {
  const { title, term, 'buy-at': buyAt, 'renew-at': renewAt, grace, includes = [] } = entry;
  const path = ['products', name];
  if (buyAt !== undefined) read.address(buyAt, [...path, 'buy-at']);
  if (renewAt !== undefined) read.address(renewAt, [...path, 'renew-at']);
  includes.forEach((one, position) => read.name('product', one, [...path, 'includes', position]));
  return {
    title: title ?? name,
    term: term ?? 'once',
    buyAt: buyAt ?? null,
    renewAt: renewAt ?? null,
    grace: (read.seconds(grace, [...path, 'grace']) ?? 0) * SECOND,
    includes,
    place: document.keyAt(path),
  };
}

/** A bundle can't be in itself, by whatever way. */
export function checkBundles(products: Readonly<Record<string, Product>>, list: ErrorList): void {
  for (const [name, { includes }] of Object.entries(products)) {
    const inside = new Set(includes);
    // The set grows while it is read.
    for (const one of inside) products[one]?.includes.forEach((further) => inside.add(further));
    if (inside.has(name))
      list.atValue(['products', name, 'includes'], { code: 'bundle-in-itself', product: name });
  }
}
