import { isInForce } from '../time/period.ts';
import { evaluate } from '../condition/evaluate.ts';
import { exampleOfRedirect } from '../pattern/example.ts';
import type { Redirect, Site } from '../model/site.ts';
import { type Visitor, GUEST } from '../model/visitor.ts';
import { followRedirects, type Hop, type Outcome } from '../visit/visit.ts';
import type { InspectionContext } from './finding-draft.ts';
import type { SourceLocation } from '../model/source-location.ts';

/** What a redirect does to an address that it is for. */
export interface Sample {
  readonly redirect: Redirect;
  /** Its place among the redirects of the site file; null for one that stands in a list of its own. */
  readonly position: number | null;
  readonly address: string;
  readonly outcome: Outcome;
  readonly final: string;
  /** The page at the end of the way; null where none is. */
  readonly page: string | null;
  /** Every address met, in order. */
  readonly met: readonly string[];
  /** The redirects followed one after the other, each from an address to a location. */
  readonly chain: readonly Step[];
}

interface Step {
  readonly rule: Redirect;
  readonly address: string;
  readonly location: string;
}

// Several findings look at them, and on a long list they are most of the work.
const known = new WeakMap<InspectionContext, Sample[]>();

/** One visit for each redirect that has a say now, by someone it is for; redirects that others forestall are left out. */
export function redirectSamples(inspected: InspectionContext): Sample[] {
  let samples = known.get(inspected);
  if (!samples) known.set(inspected, (samples = sampleAll(inspected)));
  return samples;
}

function sampleAll({ prepared, at }: InspectionContext): Sample[] {
  const { site, names } = prepared;
  const visitors = candidates(site);
  const rules = new Map(site.redirects.map((redirect) => [redirect.place, redirect]));
  return site.redirects.flatMap((redirect, position): Sample[] => {
    const { when, place } = redirect;
    if (!isInForce(redirect, at)) return [];
    const address = exampleOfRedirect(redirect);
    const situation = { at, path: {}, query: '' };
    const visitor = visitors.find(
      (one) => when === null || evaluate(when, { ...situation, visitor: one }, names),
    );
    if (!visitor) return [];
    const { hops, outcome, final } = followRedirects(
      prepared,
      { method: 'GET', address },
      visitor,
      at,
    );
    const chain = hops.flatMap((hop) => stepOf(hop, rules));
    if (chain[0]?.rule !== redirect || chain[0].address !== address) return [];
    // Only what is looked at is kept: the reasons of 100,000 visits would fill the memory.
    const { page } = hops.at(-1)!.decision;
    const met = hops.map((hop) => hop.address);
    const own = place.file === undefined ? position : null;
    return [{ redirect, position: own, address, outcome, final, page, met, chain }];
  });
}

function stepOf({ address, decision }: Hop, rules: ReadonlyMap<SourceLocation, Redirect>): Step[] {
  const { location, reasons } = decision;
  if (location === null) return [];
  const place = reasons.find(({ verdict }) => verdict === 'redirected')?.place;
  const rule = place ? rules.get(place) : undefined;
  return rule ? [{ rule, address, location }] : [];
}

/** Whom a condition may be for: guests, the visitors of the site file, and one of each role and group. */
export function candidates({ visitors, roles, groups }: Site): Visitor[] {
  const signedIn: Visitor = { ...GUEST, name: 'someone', guest: false, id: 'someone' };
  return [
    GUEST,
    ...visitors,
    signedIn,
    ...Object.keys(roles).map((role) => ({ ...signedIn, roles: [role] })),
    ...Object.keys(groups).map((group) => ({ ...signedIn, groups: [group] })),
  ];
}
