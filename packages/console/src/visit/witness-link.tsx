import { useState } from 'react';
import { Link } from 'react-router';
import type { Check } from '@kleidon/client';

type Witness = NonNullable<Check['guarantees'][number]['witness']>;

/** A witness of a moment that is later than this is tried at that moment, in milliseconds. */
const LATER = 300_000;

/** Leads to the visit that shows that a guarantee does not hold. */
export function WitnessLink({
  witness: { visitor, address, method, at },
  site,
  state,
}: {
  witness: Witness;
  site: string;
  state: string;
}) {
  const [now] = useState(() => Date.now());
  const query = new URLSearchParams({
    address,
    as: 'someone',
    visitor: JSON.stringify(visitor),
    ...(method === 'GET' ? {} : { method }),
    ...(Date.parse(at) > now + LATER ? { at } : {}),
    ...(state === 'draft' ? {} : { state }),
  });
  return <Link to={`/sites/${site}/reach/address?${query.toString()}`}>See this visit</Link>;
}
