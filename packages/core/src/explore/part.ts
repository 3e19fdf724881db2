import type { VisitEnd } from '../visit/visit.ts';

/** Some visitors, all of whom a request ends alike for. */
export interface Part {
  readonly visitors: number;
  readonly end: VisitEnd;
}
