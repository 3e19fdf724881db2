import { useState } from 'react';
import { Link } from 'react-router';
import type { Check } from '@kleidon/client';

type Witness = Pick<
  NonNullable<Check['guarantees'][number]['witness']>,
  'visitor' | 'address' | 'method' | 'at'
>;

/** A witness of a moment that is later than this is tried at that moment, in milliseconds. */
const LATER = 300_000;

/** Where a visit can be made again in a state of the site. */
export function visitAddress(
  { visitor, address, method, at }: Witness,
  site: string,
  state: string,
  now = Date.now(),
): string {
  const query = new URLSearchParams({
    address,
    as: 'someone',
    visitor: JSON.stringify(visitor),
    ...(method === 'GET' ? {} : { method }),
    ...(Date.parse(at) > now + LATER ? { at } : {}),
    ...(state === 'draft' ? {} : { state }),
  });
  return `/sites/${site}/reach/address?${query.toString()}`;
}

/** Leads to the visit that shows that a guarantee does not hold. */
export function WitnessLink({
  witness,
  site,
  state,
}: {
  witness: Witness;
  site: string;
  state: string;
}) {
  const [now] = useState(() => Date.now());
  return <Link to={visitAddress(witness, site, state, now)}>See this visit</Link>;
}
