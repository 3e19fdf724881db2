import { printCondition } from '../condition/print.ts';
import { NONE } from '../explore/visitor-sets.ts';
import { closureAt, pageAt } from '../decision/page-at.ts';
import type { Condition } from '../model/condition.ts';
import type { Part } from '../explore/part.ts';
import { familyOf } from '../explore/families.ts';
import { gatesIn, reachOf, redirectedAlways, type Reach } from '../reach/reach.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** No visitor there could be reaches a page, although nothing says that it is closed. */
export function nobodyReaches({
  prepared,
  explorer,
  at,
  reportLimit,
}: InspectionContext): FindingDraft[] {
  return prepared.site.pages.flatMap((page): FindingDraft[] => {
    const { address, draft, place } = page;
    if (draft || closureAt(page, at) !== null) return [];
    const isReachedAt = ({ visitors, parts }: Reach): boolean =>
      visitors !== NONE || parts.some(({ end }) => end.outcome === 'away' && !end.fullAccess);
    // For most pages, one visitor or one address is enough to tell.
    const isOwn = pageAt(prepared, page.example)?.rule.page === page;
    if (isOwn && explorer.isPlainlyReached(page.example)) return [];
    if (isOwn && isReachedAt(reachOf(explorer, page, familyOf(page.example)))) return [];
    const known = explorer.knownFamiliesOf(page);
    if (known === null) reportLimit();
    const families = (known ?? []).map((family) => reachOf(explorer, page, family));
    const [first] = families;
    if (!first || families.some(isReachedAt)) return [];
    // What is redirected for everyone is found as such.
    if (families.every(({ closure, parts }) => closure ?? redirectedAlways(parts))) return [];
    return [
      {
        code: 'nobody-reaches',
        severity: 'medium',
        subject: { kind: 'page', name: address },
        place,
        values: {
          page: address,
          unmet: unmetIn(first.parts),
          isByFullAccess: families.some(({ byFullAccess }) => byFullAccess !== NONE),
          gates: gatesIn(first.parts),
          leadsTo: page.leadsTo,
        },
      },
    ];
  });
}

/** What those who are turned away would have to meet; null where that is plainly nothing that anyone can. */
function unmetIn(parts: readonly Part[]): Condition | null {
  const wanted = parts
    .flatMap(({ end }) => end.hops)
    .flatMap(({ decision }) => decision.reasons)
    .flatMap((reason): Condition[] => {
      if (reason.code === 'not-admitted') return [reason.values.admit];
      return reason.code === 'page-missing-unless' ? [reason.values.condition] : [];
    });
  const all = [...new Map(wanted.map((one) => [printCondition(one), one])).values()];
  const [only] = all;
  if (!only || all.some(({ is }) => is === 'nobody')) return null;
  return all.length === 1 ? only : { is: 'and', of: all };
}
