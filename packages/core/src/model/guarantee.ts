import type { Condition } from './condition.ts';
import { OUTCOMES } from './outcome.ts';
import type { Pattern } from './pattern.ts';
import type { Period, Scope } from './site.ts';
import type { SourceLocation } from './source-location.ts';

/** What a guarantee can demand of visits: how they end, to change what is there, or to arrive by permanent redirects. */
export const DEMANDS = [...OUTCOMES, 'change', 'permanent'] as const;
export type Demand = (typeof DEMANDS)[number];

/** What must always or never happen to some visitors, from now on. */
export interface Guarantee extends Period {
  /** The place in the list, counted from 1, such as `#1`. */
  readonly name: string;
  readonly who: Condition;
  readonly is: 'always' | 'never';
  readonly demands: readonly Demand[];
  /** What it is about; the whole site where there is none. */
  readonly scopes: readonly Scope[];
  /** The old addresses that it is about; null where it is about pages. */
  readonly old: { readonly host: string | null; readonly pattern: Pattern } | null;
  /** How many redirects may be followed; null for any number. */
  readonly hops: number | null;
  /** It is about the targets of menus, landings and redirects. */
  readonly links: boolean;
  readonly note: string | null;
  readonly place: SourceLocation;
}
