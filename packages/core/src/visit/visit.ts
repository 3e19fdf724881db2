import { pathOnSite, printAddress, readAddress } from '../address/address.ts';
import { decide } from '../decision/decide.ts';
import type { Answers, Decision, Request } from '../decision/decision.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { siteAddress } from '../decision/site-address.ts';
import type { Reason } from '../model/reason.ts';
import { OUTCOMES, type Outcome } from '../model/outcome.ts';
import type { Visitor } from '../model/visitor.ts';
import { printInstant } from '../time/instant.ts';

export { OUTCOMES, type Outcome };

/** One address met on the way, and what was decided there. */
export interface Hop {
  readonly address: string;
  readonly decision: Decision;
}

/** One request by one visitor, with everything that follows from it. */
export interface Visit {
  readonly visitor: string;
  readonly method: string;
  readonly at: string;
  readonly outcome: Outcome;
  /** The status of the last answer. */
  readonly status: number;
  /** Where the visit ended: a path on the site's primary host, a whole URL elsewhere. */
  readonly final: string;
  /** The visitor came somewhere only by having full access. */
  readonly fullAccess: boolean;
  /** Every address met; all but the last one answered with a redirect. */
  readonly hops: readonly Hop[];
}

/** Browsers give up after about as many redirects (the Fetch Standard says 20). */
export const MAX_REDIRECTS = 20;

/** A visit without what names it: what the grid needs of each of its cells. */
export type VisitEnd = Pick<Visit, 'outcome' | 'status' | 'final' | 'fullAccess' | 'hops'>;

/**
 * Makes a visit: decides the request and follows each redirect until the visit ends. An address met
 * twice is a loop. Whoever a gate turned away has not reached the page, wherever they were sent.
 *
 * @param at the moment, in milliseconds since 1970
 */
export function visit(
  prepared: PreparedSite,
  request: Request,
  visitor: Visitor,
  at: number,
): Visit {
  return {
    visitor: visitor.name,
    method: request.method,
    at: printInstant(at),
    ...followRedirects(prepared, request, visitor, at),
  };
}

/**
 * What happens to a request.
 *
 * @param at the moment, in milliseconds since 1970
 */
export function followRedirects(
  prepared: PreparedSite,
  request: Request,
  visitor: Visitor,
  at: number,
  answers: Answers | null = null,
): VisitEnd {
  const decision = decide(prepared, request, visitor, at, answers);
  const hops: Hop[] = [{ address: request.address, decision }];
  return decision.location === null
    ? endOf(prepared, hops)
    : followAll(prepared, request, hops, (next) => decide(prepared, next, visitor, at, answers));
}

function followAll(
  prepared: PreparedSite,
  request: Request,
  hops: Hop[],
  decideNext: (request: Request) => Decision,
): VisitEnd {
  const seen = new Set<string>();
  for (let current = request; ;) {
    const next = nextRequest(prepared, current, hops.at(-1)!.decision);
    if (next === null) return endOf(prepared, hops);
    seen.add(formOf(prepared, current));
    if (seen.has(formOf(prepared, next)) || hops.length > MAX_REDIRECTS)
      return endOf(prepared, hops, next.address);
    hops.push({ address: next.address, decision: decideNext(next) });
    current = next;
  }
}

/** What a browser asks for next; null where a visit ends, or leaves the site. */
export function nextRequest(
  prepared: PreparedSite,
  { method, address }: Request,
  { location, outcome, status }: Decision,
): Request | null {
  if (location === null || outcome === 'away') return null;
  const next = follow(prepared, address, location);
  return next === null ? null : { method: methodAfter(method, status), address: next };
}

const SAME_PATH: ReadonlySet<string> = new Set([
  ...['other-spelling', 'other-host', 'site-requires-https', 'page-requires-https'],
]);

/** Whether a reason is a redirect to another spelling of the path that is asked for, another host or HTTPS. */
export const leadsToSamePath = ({ code }: Reason): boolean => SAME_PATH.has(code);

/** What tells requests apart: one that is met twice is a loop. */
export const formOf = (prepared: PreparedSite, { method, address }: Request): string =>
  `${method} ${sameForm(prepared, address)}`;

/**
 * How a visit ends.
 *
 * @param loopedTo the address that was met before; null where the visit is no loop
 */
export function endOf(
  prepared: PreparedSite,
  hops: readonly Hop[],
  loopedTo: string | null = null,
): VisitEnd {
  const { address, decision } = hops.at(-1)!;
  return {
    outcome: outcomeOf(hops, loopedTo !== null),
    status: decision.status,
    final: loopedTo ?? decision.location ?? pathOnSite(address, prepared.site),
    fullAccess: hops.some((hop) => hop.decision.fullAccess),
    hops,
  };
}

/** How many redirects a visit followed. */
export function redirectsOf({
  hops,
}: {
  readonly hops: readonly { readonly decision: Pick<Decision, 'location'> }[];
}): number {
  return hops.filter(({ decision }) => decision.location !== null).length;
}

/** The method with which a browser asks for the address that it is sent to (Fetch Standard, “HTTP-redirect fetch”). */
function methodAfter(method: string, status: number): string {
  const isRewritten =
    status === 303 ? method !== 'HEAD' : (status === 301 || status === 302) && method === 'POST';
  return isRewritten ? 'GET' : method;
}

function sameForm(prepared: PreparedSite, address: string): string {
  const read = siteAddress(prepared, address);
  return read.ok && !read.address.isRespelled ? printAddress(read.address, prepared.site) : address;
}

/** The target of a redirect, or null when it leaves the site. */
function follow(prepared: PreparedSite, from: string, location: string): string | null {
  const { site, hosts } = prepared;
  const withoutFragment = location.replace(/#.*$/s, '');
  const base = siteAddress(prepared, from);
  const read = readAddress(withoutFragment, base.ok ? base.address : site, site.tidy);
  if (!read.ok) return withoutFragment;
  return hosts.has(read.address.host) ? printAddress(read.address, site) : null;
}

function outcomeOf(hops: readonly Hop[], isLoop: boolean): Outcome {
  if (isLoop) return 'loop';
  const turnedAway = hops.findLast(
    ({ decision }) => decision.outcome === 'sign-in' || decision.outcome === 'block',
  );
  const { outcome } = (turnedAway ?? hops.at(-1)!).decision;
  return outcome === 'redirect' ? 'away' : outcome;
}
