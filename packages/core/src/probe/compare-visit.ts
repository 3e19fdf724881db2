import type { Decision } from '../decision/decision.ts';
import type { Visit } from '../visit/visit.ts';

/** What of a visit can be seen from outside. */
export interface SeenVisit extends Pick<Visit, 'visitor' | 'outcome'> {
  readonly hops: readonly {
    readonly address: string;
    readonly decision: Pick<Decision, 'status' | 'location'>;
  }[];
}

/** What a website answered at one address of a visit. */
export interface Answered {
  /** A path with query on the site itself, a whole URL elsewhere. */
  readonly address: string;
  /** 0 where there was no answer. */
  readonly status: number;
  /** Where it led, in the same form; null where it led nowhere. */
  readonly location: string | null;
  /** Why there was no answer. */
  readonly failure: string | null;
}

/** What a difference means for the visitor. */
export type Effect = 'opens' | 'closes' | 'other';

/** The first step of a visit at which the website does something else than the rules say. */
export interface Difference {
  readonly hop: number;
  readonly address: string;
  readonly expected: string;
  readonly found: string;
  /** The status that came; 0 where none did. */
  readonly status: number;
  /** `opens`: the visitor sees what is not for them; `closes`: they don't see what is. */
  readonly effect: Effect;
}

/** The answer of a website to a visit, beside what the rules say of it. */
export interface ComparedVisit {
  readonly address: string;
  readonly visitor: string;
  readonly outcome: Visit['outcome'];
  readonly hops: number;
  readonly difference: Difference | null;
}

/**
 * Compares a visit as the rules have it with what a website really answered, hop by hop: the status of
 * each, and where it leads. The first difference is told; what comes after it is another visit.
 */
export function compareVisit(visit: SeenVisit, answered: readonly Answered[]): ComparedVisit {
  const { visitor, outcome, hops } = visit;
  const difference = hops
    .map(({ address, decision }, hop): Difference | null => {
      const found = answered[hop];
      const { status, location } = decision;
      if (found?.status === status && sameAddress(found.location, location)) return null;
      return {
        hop: hop + 1,
        address,
        expected: inWords(status, location),
        found: found ? (found.failure ?? inWords(found.status, found.location)) : 'nothing more',
        status: found?.status ?? 0,
        effect: effectOf(visit, answered),
      };
    })
    .find((one) => one !== null);
  return {
    address: hops[0]!.address,
    visitor,
    outcome,
    hops: answered.length,
    difference: difference ?? null,
  };
}

function effectOf({ outcome }: SeenVisit, answered: readonly Answered[]): Effect {
  const last = answered.at(-1);
  const isIn = last !== undefined && last.status >= 200 && last.status < 300;
  if (outcome === 'reach') return isIn ? 'other' : 'closes';
  // Whoever is sent elsewhere in the end has not seen the page.
  const saw = answered.length === 1 && isIn;
  return saw && (outcome === 'sign-in' || outcome === 'block' || outcome === 'missing')
    ? 'opens'
    : 'other';
}

/** Addresses are the same however their characters are escaped where that makes no difference. */
const sameAddress = (a: string | null, b: string | null): boolean =>
  a === b || (a !== null && b !== null && normal(a) === normal(b));

function normal(address: string): string {
  const url = new URL(address, 'https://site.invalid');
  return url.host === 'site.invalid' ? url.pathname + url.search + url.hash : url.href;
}

const inWords = (status: number, location: string | null): string =>
  location === null ? String(status) : `${status} to ${location}`;
