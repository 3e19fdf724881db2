import type { Pattern } from './pattern.ts';

/** Where a rule leads: an address whose pieces may be filled with what the rule matched. */
export interface Target {
  readonly text: string;
  /** Protocol and host of an absolute target; null for one on this site. */
  readonly origin: string | null;
  readonly path: Pattern;
  readonly query: Pattern | null;
  readonly fragment: string | null;
  /** The whole address where nothing is to be filled in, as is so for most; null otherwise. */
  readonly plain: string | null;
}
