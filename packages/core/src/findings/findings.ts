import type { PreparedSite } from '../decision/prepared-site.ts';
import type { Finding } from '../site/problem.ts';
import { signInClosed } from './sign-in-closed.ts';
import { tie } from './tie.ts';

/** What a finding looks at. */
export interface Inspected {
  readonly prepared: PreparedSite;
  /** The moment for which the site is looked at, in milliseconds since 1970. */
  readonly at: number;
}

/** A finding before it is known which file it is in. */
export type Found = Omit<Finding, 'file' | 'line' | 'column'> & {
  readonly place: { readonly line: number; readonly column: number };
};

/** Everything that is looked for, one file each. */
const INSPECTIONS: readonly ((inspected: Inspected) => Found[])[] = [signInClosed, tie];

/** Finds what looks wrong in a site, in the order of the site file. */
export function inspect(prepared: PreparedSite, file: string, at: number): Finding[] {
  return INSPECTIONS.flatMap((inspection) => inspection({ prepared, at }))
    .map(({ place, ...found }) => ({ ...found, file, ...place }))
    .sort((a, b) => a.line - b.line || a.column - b.column);
}
