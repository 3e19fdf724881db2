import type { Explorer } from '../explore/explorer.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';

export type { FindingDraft } from '../model/finding.ts';

/** What a finding looks at. */
export interface InspectionContext {
  readonly prepared: PreparedSite;
  /** Answers what happens to every visitor there could be. */
  readonly explorer: Explorer;
  /** The moment for which the site is looked at, in milliseconds since 1970. */
  readonly at: number;
}
