import type { PreparedSite } from '../decision/prepared-site.ts';
import type { SourceLocation } from '../model/source-location.ts';
import type { Finding } from '../model/finding.ts';

/** What a finding looks at. */
export interface InspectionContext {
  readonly prepared: PreparedSite;
  /** The moment for which the site is looked at, in milliseconds since 1970. */
  readonly at: number;
}

/** A finding before it is known which file it is in. */
export type FindingDraft = Omit<Finding, 'file' | 'line' | 'column' | 'fix'> & {
  readonly place: SourceLocation;
  readonly fix?: Finding['fix'];
};
