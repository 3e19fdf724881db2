import type { PreparedSite } from '../decision/prepared-site.ts';

export type { FindingDraft } from '../model/finding.ts';

/** What a finding looks at. */
export interface InspectionContext {
  readonly prepared: PreparedSite;
  /** The moment for which the site is looked at, in milliseconds since 1970. */
  readonly at: number;
}
