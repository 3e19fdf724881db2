import { useState } from 'react';
import { Link } from 'react-router';
import type { Check } from '@kleidon/client';
import { visitAddress } from './visit-address.ts';

type Witness = Pick<
  NonNullable<Check['guarantees'][number]['witness']>,
  'visitor' | 'address' | 'method' | 'at'
>;

/** A witness of a moment that is later than this is tried at that moment, in milliseconds. */
const LATER = 300_000;

/** Where the visit of a witness can be made again in a state of the site. */
export const witnessAddress = (
  { visitor, address, method, at }: Witness,
  site: string,
  state: string,
  now = Date.now(),
): string =>
  visitAddress(site, address, {
    visitor: { ...visitor },
    method,
    state,
    at: Date.parse(at) > now + LATER ? at : undefined,
  });

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
  return <Link to={witnessAddress(witness, site, state, now)}>See this visit</Link>;
}
