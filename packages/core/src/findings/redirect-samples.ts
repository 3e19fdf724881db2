import { evaluate } from '../condition/evaluate.ts';
import { exampleOf } from '../site/example.ts';
import type { Redirect, Site } from '../site/site.ts';
import { GUEST, type Visitor } from '../site/visitor.ts';
import { visit, type Visit } from '../visit/visit.ts';
import type { Inspected } from './found.ts';

/** What a redirect does to an address that it is for. */
export interface Sample {
  readonly redirect: Redirect;
  /** Its place in the list of the site file. */
  readonly position: number;
  readonly address: string;
  readonly visit: Visit;
}

/** One visit for each redirect that has a say now, by someone it is for; redirects that others forestall are left out. */
export function redirectSamples({ prepared, at }: Inspected): Sample[] {
  const { site, names } = prepared;
  const visitors = candidates(site);
  return site.redirects.flatMap((redirect, position): Sample[] => {
    const { from, until, when } = redirect;
    if ((from !== null && at < from) || (until !== null && at >= until)) return [];
    const address = sampleAddress(redirect);
    const situation = { at, path: {}, query: '' };
    const visitor = visitors.find(
      (one) => when === null || evaluate(when, { ...situation, visitor: one }, names),
    );
    if (!visitor) return [];
    const made = visit(prepared, { method: 'GET', address }, visitor, at);
    const decided = made.hops[0]!.decision.reasons.find(({ verdict }) => verdict === 'redirected');
    const isIts = decided?.place?.line === redirect.place.line;
    return isIts ? [{ redirect, position, address, visit: made }] : [];
  });
}

/** Whom a condition may be for: guests, the visitors of the site file, and one of each role and group. */
function candidates({ visitors, roles, groups }: Site): Visitor[] {
  const signedIn: Visitor = { ...GUEST, name: 'someone', guest: false, id: 'someone' };
  return [
    GUEST,
    ...visitors,
    signedIn,
    ...Object.keys(roles).map((role) => ({ ...signedIn, roles: [role] })),
    ...Object.keys(groups).map((group) => ({ ...signedIn, groups: [group] })),
  ];
}

/** An address that a redirect is for. */
function sampleAddress({ host, pattern, asked }: Redirect): string {
  const path = exampleOf(pattern, null);
  const query = new URLSearchParams(asked.map(({ field, value }) => [field, value ?? 'example']));
  const address = asked.length === 0 ? path : `${path}?${query.toString()}`;
  return host === null ? address : `https://${host}${address}`;
}
