import type { Request } from '../decision/decision.ts';
import type { Explorer } from '../explore/explorer.ts';
import type { Part } from '../explore/part.ts';
import { NONE } from '../explore/visitor-sets.ts';
import { isInForce } from '../time/period.ts';
import { exampleOfRedirect } from '../pattern/example.ts';
import { appliedRedirect } from '../redirects/applied.ts';
import type { Redirect } from '../model/site.ts';
import { nextRequest } from '../visit/visit.ts';
import type { InspectionContext } from './finding-draft.ts';

/** What a redirect does to an address that it is for. */
export interface Sample {
  readonly redirect: Redirect;
  /** Its place among the redirects of the site file; null for one that stands in a list of its own. */
  readonly position: number | null;
  readonly address: string;
  /** Those whom it sends on, and what then happens to everyone there. */
  readonly sent: readonly Sent[];
}

/** Some visitors who are sent on. */
export interface Sent {
  readonly visitors: number;
  readonly location: string;
  /** What happens to all visitors at the target, shared by all redirects that have it; none where it is elsewhere. */
  readonly parts: readonly Part[];
}

// Several findings look at them, and on a long list they are most of the work.
const known = new WeakMap<InspectionContext, Sample[]>();

/** What happens to everyone at an address of each redirect that has a say now. */
export function redirectSamples(inspected: InspectionContext): Sample[] {
  let samples = known.get(inspected);
  if (!samples) known.set(inspected, (samples = sampleAll(inspected)));
  return samples;
}

function sampleAll({ prepared, explorer, at }: InspectionContext): Sample[] {
  return prepared.site.redirects.flatMap((redirect, position): Sample[] => {
    if (!isInForce(redirect, at)) return [];
    const address = exampleOfRedirect(redirect);
    const sent = sentFrom(explorer, { method: 'GET', address }, redirect);
    const own = redirect.place.file === undefined ? position : null;
    return sent.length === 0 ? [] : [{ redirect, position: own, address, sent }];
  });
}

function sentFrom(explorer: Explorer, request: Request, redirect: Redirect): Sent[] {
  const { prepared } = explorer;
  return explorer.decideForAll(request).flatMap(({ visitors, decision }): Sent[] => {
    if (decision.location === null || appliedRedirect(prepared, decision) !== redirect) return [];
    const next = nextRequest(prepared, request, decision);
    const parts = next === null ? [] : explorer.partsOf(next.address, next.method);
    return [{ visitors, location: decision.location, parts }];
  });
}

/** Chooses, of what happens at a target, what a finding is about; asked once for each target. */
export function partsThat(isOne: (part: Part) => boolean): PartFilter {
  const chosen = new WeakMap<readonly Part[], readonly Part[]>();
  return (parts) => {
    let some = chosen.get(parts);
    if (!some) chosen.set(parts, (some = parts.filter(isOne)));
    return some;
  };
}

export type PartFilter = (parts: readonly Part[]) => readonly Part[];

/** Those who are sent on to where some of what happens there is. */
export const sentTo = (
  { atoms: { sets } }: Explorer,
  sent: readonly Sent[],
  those: PartFilter,
): number =>
  sent.reduce(
    (all, { visitors, parts }) =>
      those(parts).reduce((some, part) => sets.or(some, sets.and(visitors, part.visitors)), all),
    NONE,
  );

/** Something that happens to some of those who are sent on; null where nobody comes to it. */
export function findWay(
  { atoms }: Explorer,
  sent: readonly Sent[],
  those: PartFilter,
): { readonly sent: Sent; readonly part: Part } | null {
  for (const one of sent)
    for (const part of those(one.parts))
      if (atoms.isAnyone(atoms.sets.and(one.visitors, part.visitors))) return { sent: one, part };
  return null;
}
