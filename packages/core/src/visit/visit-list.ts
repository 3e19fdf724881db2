import type { PreparedSite } from '../decision/prepared-site.ts';
import type { Visitor } from '../model/visitor.ts';
import { followRedirects, redirectsOf, type Outcome } from './visit.ts';

/** Where one of many addresses ends for one visitor. */
export interface ListedVisit {
  readonly address: string;
  readonly visitor: string;
  readonly outcome: Outcome;
  readonly status: number;
  readonly final: string;
  /** The number of redirects followed. */
  readonly hops: number;
  readonly fullAccess: boolean;
}

/**
 * Asks for many addresses, each as every one of some visitors; in the order of the addresses.
 *
 * @param at the moment, in milliseconds since 1970
 */
export function visitList(
  prepared: PreparedSite,
  addresses: readonly string[],
  visitors: readonly Visitor[],
  at: number,
): ListedVisit[] {
  return addresses.flatMap((address) =>
    visitors.map((visitor) => {
      const ended = followRedirects(prepared, { method: 'GET', address }, visitor, at);
      const { outcome, status, final, fullAccess } = ended;
      return {
        address,
        visitor: visitor.name,
        outcome,
        status,
        final,
        hops: redirectsOf(ended),
        fullAccess,
      };
    }),
  );
}
