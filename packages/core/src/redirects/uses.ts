import type { PreparedSite } from '../decision/prepared-site.ts';
import { redirectKey } from './applied.ts';

/** How often a redirect was used, as counted by its key. */
export interface RedirectUse {
  readonly count: number;
  readonly last: string;
}

/** A redirect with how often it was used. */
export interface UsedRedirect {
  readonly from: string;
  readonly to: string;
  readonly when: string | null;
  /** The list that it stands in; null for the site file itself. */
  readonly list: string | null;
  readonly line: number;
  readonly count: number;
  /** Null where it never was. */
  readonly last: string | null;
}

export const USE_ORDERS = ['count', 'last', 'unused', 'file'] as const;
export type UseOrder = (typeof USE_ORDERS)[number];

/**
 * The redirects of a site with how often each was used. Those that never were are at the end, or with
 * `unused` at the beginning.
 */
export function redirectUses(
  { site }: PreparedSite,
  uses: ReadonlyMap<string, RedirectUse>,
  order: UseOrder = 'count',
): UsedRedirect[] {
  const rows = site.redirects.map((redirect): UsedRedirect => {
    const key = redirectKey(redirect);
    const use = uses.get(key);
    return {
      from: redirect.source,
      to: redirect.to.text,
      when: key === redirect.source ? null : key.slice(redirect.source.length + ' when '.length),
      list: redirect.place.file ?? null,
      line: redirect.place.line,
      count: use?.count ?? 0,
      last: use?.last ?? null,
    };
  });
  const compare = ORDERS[order];
  return compare ? rows.sort(compare) : rows;
}

const ORDERS: Readonly<Record<UseOrder, ((a: UsedRedirect, b: UsedRedirect) => number) | null>> = {
  count: (a, b) => b.count - a.count,
  last: (a, b) => (b.last ?? '').localeCompare(a.last ?? ''),
  unused: (a, b) => (a.last ?? '').localeCompare(b.last ?? ''),
  file: null,
};
