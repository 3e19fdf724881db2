import type { Explorer } from '../explore/explorer.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import type { Family } from '../explore/families.ts';
import type { Page } from '../model/site.ts';
import type { Starts } from '../everywhere/starts.ts';

export type { FindingDraft } from '../model/finding.ts';

/** What a finding looks at. */
export interface InspectionContext {
  readonly prepared: PreparedSite;
  /** Answers what happens to every visitor there could be. */
  readonly explorer: Explorer;
  /** Finds the addresses of rules that are patterns. */
  readonly starts: Starts;
  /** The moment for which the site is looked at, in milliseconds since 1970. */
  readonly at: number;
  /** Returns the families of a page; its example alone if there are too many. */
  familiesOf(page: Page): readonly Family[];
  /** Reports that some addresses were not looked at: they have too many cases. */
  reportLimit(): void;
}
