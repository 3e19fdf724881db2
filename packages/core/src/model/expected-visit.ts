import type { Outcome } from './outcome.ts';
import type { SourceLocation } from './source-location.ts';
import type { Visitor } from './visitor.ts';

/** The methods that a visit can be made with. */
export const EXPECTED_METHODS = ['GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE'] as const;

/** A visit that is to end as it is said here; null where it does not matter. */
export interface ExpectedVisit {
  /** The place in the list, counted from 1, such as `#1`. */
  readonly name: string;
  readonly address: string;
  readonly method: (typeof EXPECTED_METHODS)[number];
  readonly visitor: Visitor;
  /** In milliseconds since 1970; null for the moment at which it is made. */
  readonly at: number | null;
  readonly outcome: Outcome | null;
  readonly status: number | null;
  readonly final: string | null;
  /** How many redirects are followed. */
  readonly hops: number | null;
  readonly note: string | null;
  readonly place: SourceLocation;
}
