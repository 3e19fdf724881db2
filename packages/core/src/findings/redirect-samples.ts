import { addressOf } from '../everywhere/starts.ts';
import { readAddress } from '../address/address.ts';
import { readsOf } from '../condition/reads.ts';
import { pageAt } from '../decision/page-at.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { ARRIVED, type Explorer } from '../explore/explorer.ts';
import { rulesNear, startOf } from '../explore/rules-near.ts';
import type { Part } from '../explore/part.ts';
import { NONE } from '../explore/visitor-sets.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import { literalOf } from '../model/pattern.ts';
import { isInForce } from '../time/period.ts';
import { exampleOfRedirect, exampleQuery } from '../pattern/example.ts';
import { PathLanguage, withBudget } from '../pattern/language.ts';
import { appliedRedirect } from '../redirects/applied.ts';
import type { Redirect } from '../model/site.ts';
import { nextRequest } from '../visit/visit.ts';
import type { InspectionContext } from './finding-draft.ts';

/** Work on the addresses of all redirects: some seconds. */
const BUDGET = 300_000;
const MAX_TRIED = 5;

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
  const comesBack = returnTest(prepared);
  const waysOf = (redirect: Redirect): Way[] => {
    const address = exampleOfRedirect(redirect);
    const example: Way = { address, explorer, sent: sentFrom(explorer, address, redirect) };
    if (literalOf(redirect.pattern) !== null) return [example];
    try {
      const settling = settlingWays(inspected, redirect, example, comesBack);
      if (settling !== null) return settling;
      return starts.ofRedirect(redirect).map((start) => {
        const own = explorer.within(start.family);
        const address = addressOf(start);
        return { address, explorer: own, sent: sentFrom(own, address, redirect) };
      });
    } catch (error) {
      if (!(error instanceof TooManyCases)) throw error;
      reportLimit();
      return [example];
    }
  };
  return prepared.site.redirects.flatMap((redirect, position): Sample[] => {
    if (!isInForce(redirect, at)) return [];
    const ways = waysOf(redirect).filter(({ sent }) => sent.length > 0);
    const own = redirect.place.file === undefined ? position : null;
    return ways.length === 0 ? [] : [{ redirect, position: own, ways }];
  });
}

/**
 * Returns one or two addresses of a redirect with a pattern that settle what findings say of all; null if more are needed.
 * The families of a catch-all redirect take a thousand times as long.
 */
function settlingWays(
  inspected: InspectionContext,
  redirect: Redirect,
  example: Way,
  comesBack: (redirect: Redirect) => boolean,
): Way[] | null {
  const { prepared, explorer } = inspected;
  const { when, pattern, to } = redirect;
  if (example.sent.length === 0 || comesBack(redirect)) return null;
  if (when !== null && readsOf(when, prepared.names).address) return null;
  // All addresses have the same target.
  if (!isFilled(redirect)) return [example];
  const { atoms } = explorer;
  const parts = example.sent.flatMap((one) => one.parts);
  const isChained = ({ end }: Part): boolean =>
    appliedRedirect(prepared, end.hops[0]!.decision) !== null;
  if (parts.some(isChained)) return null;
  const isLost = ({ visitors, end: { outcome, final } }: Part): boolean =>
    !ARRIVED.includes(outcome) &&
    (outcome !== 'sign-in' || atoms.isAnyone(atoms.sets.and(visitors, atoms.signedIn))) &&
    pageAt(prepared, final) !== null;
  if (parts.some(isLost)) return null;
  if (parts.every(({ end }) => end.outcome !== 'missing')) return [example];
  // One address that leads to a page is enough.
  for (const { scope } of rulesNear(prepared, to.path, ['pages']).slice(0, MAX_TRIED)) {
    const sources = PathLanguage.of(scope).madeFrom(pattern, to.path);
    const [path] = sources?.examples(prepared.site.tidy) ?? [];
    if (path === undefined) continue;
    const origin = redirect.host === null ? '' : `https://${redirect.host}`;
    const address = origin + path + exampleQuery(redirect.queryConstraints);
    const sent = sentFrom(explorer, address, redirect);
    const arrives = ({ end }: Part): boolean => ARRIVED.includes(end.outcome);
    if (sent.some((one) => one.parts.some((part) => arrives(part) && !isChained(part))))
      return [example, { address, explorer, sent }];
  }
  return null;
}

/** Tells whether some rule may lead to an address of a redirect: otherwise, the redirect is in no loop. */
function returnTest(prepared: PreparedSite): (redirect: Redirect) => boolean {
  const { site } = prepared;
  const starts = new Map<string, Set<string>>();
  const add = (host: string | null, start: string): void => {
    // The other hosts of the site redirect to the same path at the primary one.
    const key = host === null || site.also.includes(host) ? site.host : host;
    const known = starts.get(key);
    if (known) known.add(start.toLowerCase());
    else starts.set(key, new Set([start.toLowerCase()]));
  };
  const addAddress = (address: string | null): void => {
    if (address === null) return;
    const read = readAddress(address, site, site.tidy);
    if (read.ok) add(read.address.host, read.address.path);
  };
  for (const { to } of site.redirects)
    add(to.origin === null ? null : new URL(to.origin).host, startOf(to.path));
  for (const { canonical } of site.rewrites) if (canonical) add(null, startOf(canonical.to.path));
  for (const { leadsTo, aliases, example } of site.pages) {
    addAddress(leadsTo);
    if (aliases.length > 0) addAddress(example);
  }
  for (const { otherwise } of site.gates)
    for (const step of otherwise) if (step.do === 'send') addAddress(step.to);
  addAddress(site.signIn);
  for (const { buyAt, renewAt } of Object.values(site.products))
    [buyAt, renewAt].forEach(addAddress);
  return ({ host, pattern }) => {
    const start = startOf(pattern).toLowerCase();
    for (const one of starts.get(host ?? site.host) ?? [])
      if (one.startsWith(start) || start.startsWith(one)) return true;
    return false;
  };
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
export const sentTo = (
  { explorer, sent }: Pick<Way, 'explorer' | 'sent'>,
  those: PartFilter,
): number => {
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
