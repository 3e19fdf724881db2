import type { KnownNames } from '../condition/condition-builder.tsx';
import { isRecord, type Entry } from './entry-value.ts';

/** What the fields of a form may choose from. */
export interface Choices {
  readonly site: string;
  readonly state: string;
  readonly pages: readonly string[];
  readonly roles: readonly string[];
  readonly groups: readonly string[];
  readonly products: readonly string[];
  readonly names: KnownNames;
}

/** What a form may choose from, in a site file as plain values. */
export function choicesOf(site: string, state: string, document: Entry): Choices {
  const keys = (section: string): string[] => {
    const entries = document[section];
    return isRecord(entries) ? Object.keys(entries) : [];
  };
  const [roles, groups, products] = [keys('roles'), keys('groups'), keys('products')];
  return {
    site,
    state,
    pages: keys('pages'),
    roles,
    groups,
    products,
    names: {
      role: roles,
      group: groups,
      product: products,
      audience: keys('audiences'),
      person: keys('visitors'),
    },
  };
}
