import { printCondition } from '../condition/print.ts';
import type { Decision } from '../decision/decision.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import type { Redirect } from '../model/site.ts';
import type { SourceLocation } from '../model/source-location.ts';

const byPlace = new WeakMap<PreparedSite, ReadonlyMap<SourceLocation, Redirect>>();

/**
 * What to count a redirect by: the address that it is from, and for whom it is. It stays the same when
 * the redirect moves in the file or leads elsewhere.
 */
export const redirectKey = ({ source: name, when }: Pick<Redirect, 'source' | 'when'>): string =>
  when === null ? name : `${name} when ${printCondition(when)}`;

/** The redirect that decided; null where none of the site's own did. */
export function appliedRedirect(prepared: PreparedSite, { reasons }: Decision): Redirect | null {
  const place = reasons.find(
    ({ stage, verdict }) => stage === 'redirect' && verdict === 'redirected',
  )?.place;
  if (!place) return null;
  let known = byPlace.get(prepared);
  if (!known) {
    known = new Map(prepared.site.redirects.map((redirect) => [redirect.place, redirect]));
    byPlace.set(prepared, known);
  }
  return known.get(place) ?? null;
}
