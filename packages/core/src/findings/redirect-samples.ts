import { addressOf } from '../everywhere/starts.ts';
import type { Explorer } from '../explore/explorer.ts';
import type { Part } from '../explore/part.ts';
import { NONE } from '../explore/visitor-sets.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import { literalOf } from '../model/pattern.ts';
import { isInForce } from '../time/period.ts';
import { exampleOfRedirect } from '../pattern/example.ts';
import { withBudget } from '../pattern/language.ts';
import { appliedRedirect } from '../redirects/applied.ts';
import type { Redirect } from '../model/site.ts';
import { nextRequest } from '../visit/visit.ts';
import type { InspectionContext } from './finding-draft.ts';

/** Work on the addresses of all redirects: some seconds. */
const BUDGET = 300_000;

/** A redirect that applies now, and its effect at each family of its addresses. */
export interface Sample {
  readonly redirect: Redirect;
  /** The index among the redirects of the site file; null for a redirect of a list beside it. */
  readonly position: number | null;
  readonly ways: readonly Way[];
}

/** The effect of a redirect at a family of addresses. */
export interface Way {
  readonly address: string;
  /** The sets of visitors are sets of this explorer. */
  readonly explorer: Explorer;
  readonly sent: readonly Sent[];
}

/** Visitors whom a redirect sends to one location. */
export interface Sent {
  readonly visitors: number;
  readonly location: string;
  /** The ends of all visits to the target, shared by all redirects that lead there; empty for another website. */
  readonly parts: readonly Part[];
}

// Five inspections read the samples. In a long list of redirects they are most of the work.
const known = new WeakMap<InspectionContext, Sample[]>();

/** Returns the effect of each redirect that applies to some visitor now. */
export function redirectSamples(inspected: InspectionContext): Sample[] {
  let samples = known.get(inspected);
  if (!samples) known.set(inspected, (samples = withBudget(BUDGET, () => sampleAll(inspected))));
  return samples;
}

function sampleAll(inspected: InspectionContext): Sample[] {
  const { prepared, explorer, starts, at, reportLimit } = inspected;
  const waysOf = (redirect: Redirect): Way[] => {
    try {
      return starts.ofRedirect(redirect).map((start) => {
        const own = explorer.within(start.family);
        const address = addressOf(start);
        return { address, explorer: own, sent: sentFrom(own, address, redirect) };
      });
    } catch (error) {
      if (!(error instanceof TooManyCases)) throw error;
      reportLimit();
      const address = exampleOfRedirect(redirect);
      return [{ address, explorer, sent: sentFrom(explorer, address, redirect) }];
    }
  };
  return prepared.site.redirects.flatMap((redirect, position): Sample[] => {
    if (!isInForce(redirect, at)) return [];
    const ways = waysOf(redirect).filter(({ sent }) => sent.length > 0);
    const own = redirect.place.file === undefined ? position : null;
    return ways.length === 0 ? [] : [{ redirect, position: own, ways }];
  });
}

function sentFrom(explorer: Explorer, address: string, redirect: Redirect): Sent[] {
  const { prepared } = explorer;
  const request = { method: 'GET', address };
  return explorer.decideForAll(request).flatMap(({ visitors, decision }): Sent[] => {
    if (decision.location === null || appliedRedirect(prepared, decision) !== redirect) return [];
    const next = nextRequest(prepared, request, decision);
    const parts = next === null ? [] : explorer.partsOf(next.address, next.method);
    return [{ visitors, location: decision.location, parts }];
  });
}

/** Selects parts of a target; each target is filtered once. */
export function partsThat(isOne: (part: Part) => boolean): PartFilter {
  const chosen = new WeakMap<readonly Part[], readonly Part[]>();
  return (parts) => {
    let some = chosen.get(parts);
    if (!some) chosen.set(parts, (some = parts.filter(isOne)));
    return some;
  };
}

export type PartFilter = (parts: readonly Part[]) => readonly Part[];

/** Returns the visitors whose visit ends in one of the selected parts. */
export const sentTo = ({ explorer, sent }: Way, those: PartFilter): number => {
  const { sets } = explorer.atoms;
  return sent.reduce(
    (all, { visitors, parts }) =>
      those(parts).reduce((some, part) => sets.or(some, sets.and(visitors, part.visitors)), all),
    NONE,
  );
};

/** Returns all visitors to whom the redirect applies at some addresses. */
export const sentAway = ({ explorer, sent }: Way): number =>
  explorer.atoms.sets.anyOf(sent.map(({ visitors }) => visitors));

/**
 * Whether a redirect fills pieces of its address into its target. Such a redirect often covers more addresses than it
 * is meant for: for example, all addresses of an old host.
 */
export const isFilled = ({ pattern, to }: Redirect): boolean =>
  literalOf(pattern) === null && literalOf(to.path) === null;

/** Returns the first selected part that some visitor comes to; null if there is none. */
export function findWay(
  { ways }: Sample,
  those: PartFilter,
): { readonly way: Way; readonly sent: Sent; readonly part: Part } | null {
  for (const way of ways) {
    const { atoms } = way.explorer;
    for (const sent of way.sent)
      for (const part of those(sent.parts))
        if (atoms.isAnyone(atoms.sets.and(sent.visitors, part.visitors)))
          return { way, sent, part };
  }
  return null;
}
