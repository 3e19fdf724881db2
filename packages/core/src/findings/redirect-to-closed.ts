import type { Condition } from '../model/condition.ts';
import { literalOf } from '../model/pattern.ts';
import { findExcluded } from '../reach/find-excluded.ts';
import { closureAt, conditionOf, pageAt } from '../reach/who-reaches.ts';
import { followRedirects } from '../visit/visit.ts';
import type { Redirect } from '../model/site.ts';
import type { People } from '../model/finding.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { redirectSamples } from './redirect-samples.ts';
import { GUEST } from '../model/visitor.ts';

/** A redirect sends people to a page that turns some of them away. To be asked to sign in is no refusal. */
export function redirectToClosed(inspected: InspectionContext): FindingDraft[] {
  const excludedAt = new Map<string, People | null>();
  return redirectSamples(inspected).flatMap(({ redirect, met }): FindingDraft[] => {
    const target = met[1];
    if (target === undefined || literalOf(redirect.to.path) === null) return [];
    // Many old addresses lead to few pages.
    const key = JSON.stringify([target, redirect.when]);
    let who = excludedAt.get(key);
    if (who === undefined) excludedAt.set(key, (who = notLetIn(inspected, redirect, target)));
    if (who === null) return [];
    return [
      {
        code: 'redirect-to-closed',
        severity: 'low',
        subject: { kind: 'redirect', name: redirect.source },
        place: redirect.place,
        values: { source: redirect.source, location: target, who },
      },
    ];
  });
}

/** Which of those whom a redirect is for its target does not let in, in words; null where it lets in all. */
function notLetIn(
  { prepared, at }: InspectionContext,
  redirect: Redirect,
  target: string,
): People | null {
  const page = pageAt(prepared, target)?.rule.page;
  if (!page || closureAt(page, at) !== null) return null;
  const { outcome } = followRedirects(prepared, { method: 'GET', address: target }, GUEST, at);
  // Where guests may sign in, an old address redirects to a closed page as the page's own address does.
  if (redirect.when === null && outcome === 'sign-in') return null;
  const sent: Condition[] = [
    redirect.when ?? { is: 'anyone' },
    ...(outcome === 'sign-in' ? [{ is: 'signed-in' as const }] : []),
  ];
  const { condition, byFullAccess } = conditionOf(prepared, page, at, 'view');
  return findExcluded(prepared, { is: 'and', of: sent }, condition, byFullAccess);
}
