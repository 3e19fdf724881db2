import type { PreparedSite } from '../decision/prepared-site.ts';
import type { Finding } from '../site/problem.ts';
import type { Found, Inspected } from './found.ts';
import { signInClosed } from './sign-in-closed.ts';
import { tie } from './tie.ts';

/** Everything that is looked for, one file each. */
const INSPECTIONS: readonly ((inspected: Inspected) => Found[])[] = [signInClosed, tie];

/** Finds what looks wrong in a site, in the order of the site file. */
export function inspect(prepared: PreparedSite, file: string, at: number): Finding[] {
  return INSPECTIONS.flatMap((inspection) => inspection({ prepared, at }))
    .map(({ place, ...found }) => ({ ...found, file, ...place }))
    .sort((a, b) => a.line - b.line || a.column - b.column);
}
