import { decodeGroups } from '../pattern/fill.ts';
import { groupsTaken } from '../pattern/matched-groups.ts';
import { ALL } from '../explore/visitor-sets.ts';
import { datesOf } from '../everywhere/stretches.ts';
import { addressOf, Starts } from '../everywhere/starts.ts';
import { Explorer } from '../explore/explorer.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import type { Redirect } from '../model/site.ts';
import { withBudget } from '../pattern/language.ts';
import { appliedRedirect } from '../redirects/applied.ts';
import { isInForce } from '../time/period.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { redirectSamples } from './redirect-samples.ts';
import { areTied } from './tie.ts';

/** Work on the addresses of the redirects that do not apply now: some seconds. */
const BUDGET = 300_000;

/** A redirect never applies, now or later, because other redirects come first at all of its addresses. */
export function redirectShadowed(inspected: InspectionContext): FindingDraft[] {
  const { prepared, explorer, at, reportLimit } = inspected;
  const { site } = prepared;
  const applied = new Set(redirectSamples(inspected).map(({ redirect }) => redirect));
  const moments = [at, ...datesOf(site).filter((date) => date > at)];
  const explorers = moments.map((moment, i) =>
    i === 0 ? explorer : new Explorer(prepared, moment),
  );
  const starts = new Starts(explorers);
  return withBudget(BUDGET, () =>
    site.redirects.flatMap((redirect): FindingDraft[] => {
      if (applied.has(redirect)) return [];
      const { source, place } = redirect;
      const own = explorers.filter((one) => isInForce(redirect, one.at));
      let before: readonly Redirect[] | null;
      try {
        before = redirectsBefore(own, starts, redirect);
      } catch (error) {
        if (!(error instanceof TooManyCases)) throw error;
        reportLimit();
        return [];
      }
      // A tie, which only the names of two redirects settle, has a finding of its own.
      if (before === null || before.every((one) => areTied(one, redirect))) return [];
      return [
        {
          code: 'redirect-shadowed',
          severity: 'medium',
          subject: { kind: 'redirect', name: source },
          place,
          values: {
            source,
            before: before.map((one) => ({ source: one.source, line: one.place.line })),
          },
        },
      ];
    }),
  );
}

/** Returns the redirects that apply in place of another one to visitors it is for; null if that one applies to anyone. */
function redirectsBefore(
  explorers: readonly Explorer[],
  starts: Starts,
  redirect: Redirect,
): Redirect[] | null {
  const before = new Set<Redirect>();
  const { when, pattern, place } = redirect;
  for (const start of explorers.length === 0 ? [] : starts.ofRedirect(redirect)) {
    const { family, query } = start;
    const request = { method: 'GET', address: addressOf(start) };
    const path = when === null ? {} : decodeGroups(groupsTaken(pattern, family.example));
    for (const own of explorers.map((one) => one.within(family))) {
      const { sets } = own.atoms;
      const wanted = when === null ? ALL : own.atoms.setOf(when, { path, query: query.slice(1) });
      for (const { visitors, decision } of own.decideForAll(request)) {
        const first = appliedRedirect(own.prepared, decision);
        if (first === redirect) return null;
        const isPassedOver = decision.reasons.some(
          (reason) => reason.code === 'less-specific' && reason.place === place,
        );
        if (first && isPassedOver && own.atoms.isAnyone(sets.and(visitors, wanted)))
          before.add(first);
      }
    }
  }
  return [...before];
}
