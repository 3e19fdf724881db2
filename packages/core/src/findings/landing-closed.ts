import type { Condition } from '../model/condition.ts';
import { compareLandings } from '../landing/landing.ts';
import { findExcluded } from '../reach/find-excluded.ts';
import { closureAt, conditionOf, pageAt } from '../reach/who-reaches.ts';
import type { Landing } from '../model/site.ts';
import { visit } from '../visit/visit.ts';
import type { People } from '../model/finding.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { GUEST } from '../model/visitor.ts';

/** Some of those who land on a page after signing in or out can't see it. */
export function landingClosed(inspected: InspectionContext): FindingDraft[] {
  return inspected.prepared.site.landings.flatMap((landing) => {
    const who =
      landing.after === 'sign-out'
        ? afterSignOut(inspected, landing)
        : afterSignIn(inspected, landing);
    if (who === null) return [];
    return [
      {
        code: 'landing-closed' as const,
        severity: 'high' as const,
        subject: { kind: 'landing', name: `${landing.after} ${landing.go}` },
        place: landing.place,
        values: { after: landing.after, who, address: landing.go },
      },
    ];
  });
}

function afterSignOut({ prepared, at }: InspectionContext, { go }: Landing): People | null {
  const { outcome } = visit(prepared, { method: 'GET', address: go }, GUEST, at);
  return outcome === 'reach' || outcome === 'away' ? null : 'everyone';
}

function afterSignIn({ prepared, at }: InspectionContext, landing: Landing): People | null {
  const { site } = prepared;
  const landers: Condition = {
    is: 'and',
    of: [landing.who, { is: 'signed-in' }, ...earlier(site.landings, landing)],
  };
  const found = pageAt(prepared, landing.go);
  if (!found && site.undeclared === 'website') return null;
  if (!found || closureAt(found.rule.page, at) !== null)
    return findExcluded(prepared, landers, { is: 'nobody' });
  const { condition, byFullAccess } = conditionOf(prepared, found.rule.page, at, 'view');
  return findExcluded(prepared, landers, condition, byFullAccess);
}

/** Whoever a landing is for that comes first does not land here. */
function earlier(landings: readonly Landing[], landing: Landing): Condition[] {
  return landings
    .filter((one) => one.after === landing.after && compareLandings(one, landing) < 0)
    .map((one) => ({ is: 'not', of: one.who }));
}
