import type { MadeUpVisitor } from '@kleidon/client';

/** Who asks, of which state, and when. */
export interface Asking {
  /** A visitor of the site file; someone made up, if not said. */
  readonly as?: string | undefined;
  readonly visitor?: MadeUpVisitor | undefined;
  readonly state?: string | undefined;
  readonly at?: string | undefined;
  readonly method?: string | undefined;
}

/** Where a visit is tried, with changes if one likes. */
export function visitAddress(
  site: string,
  address: string,
  { as, visitor, state, at, method = 'GET' }: Asking,
): string {
  const query = new URLSearchParams({
    address,
    as: as ?? 'someone',
    ...(visitor ? { visitor: JSON.stringify(visitor) } : {}),
    ...(state === undefined || state === 'draft' ? {} : { state }),
    ...(method === 'GET' ? {} : { method }),
    ...(at ? { at } : {}),
  });
  return `/sites/${site}/reach/address?${query.toString()}`;
}
