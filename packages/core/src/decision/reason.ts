import type { SourceLocation } from '../model/source-location.ts';

export type StageName =
  | 'address'
  | 'host'
  | 'https'
  | 'redirect'
  | 'tidy'
  | 'rewrite'
  | 'gate'
  | 'page'
  | 'lead'
  | 'answer'
  | 'not-found';

/** What a stage had to say about its rule. */
export type Verdict =
  | 'passed'
  | 'skipped'
  | 'admitted'
  | 'refused'
  | 'redirected'
  | 'rewritten'
  | 'found'
  | 'missing'
  | 'answered'
  | 'invalid';

/** One step of the explanation of a decision. */
export interface Reason {
  readonly stage: StageName;
  /** Kind and name of the rule in the site file, as in `gate crew-room`; null where none applied. */
  readonly rule: string | null;
  readonly verdict: Verdict;
  readonly text: string;
  /** Where the rule stands in the site file. */
  readonly place: SourceLocation | null;
}
