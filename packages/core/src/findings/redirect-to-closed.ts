import { closureAt, pageAt } from '../decision/page-at.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { ARRIVED } from '../explore/explorer.ts';
import { NONE } from '../explore/visitor-sets.ts';
import { partsThat, redirectSamples, sentTo } from './redirect-samples.ts';

/** A redirect sends people to a page that turns some of them away. To be asked to sign in is no refusal. */
export function redirectToClosed(inspected: InspectionContext): FindingDraft[] {
  const { prepared, explorer, at } = inspected;
  const { atoms } = explorer;
  const { sets } = atoms;
  const asking = partsThat(({ end }) => end.outcome === 'sign-in');
  // A loop is found as such.
  const losing = partsThat(({ end }) => ![...ARRIVED, 'loop'].includes(end.outcome));
  return redirectSamples(inspected).flatMap(({ redirect, sent }): FindingDraft[] => {
    const lost = sentTo(explorer, sent, losing);
    if (lost === NONE) return [];
    const asked = sets.and(sentTo(explorer, sent, asking), atoms.guests);
    // Where guests may sign in, an old address redirects to a closed page as the page's own address does.
    if (redirect.when === null && atoms.isAnyone(asked)) return [];
    const target = sent[0]?.parts[0]?.end.hops[0]?.address;
    const page = target === undefined ? undefined : pageAt(prepared, target)?.rule.page;
    if (target === undefined || !page || closureAt(page, at) !== null) return [];
    const who = explorer.describe(sets.without(lost, asked));
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
