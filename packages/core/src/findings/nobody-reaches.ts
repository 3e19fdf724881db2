import { clausesOf } from '../condition/clauses.ts';
import { reachOf } from '../reach/who-reaches.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** No visitor there could be reaches a page, although nothing says that it is closed. */
export function nobodyReaches({ prepared, at }: InspectionContext): FindingDraft[] {
  return prepared.site.pages.flatMap((page): FindingDraft[] => {
    const { address, draft, place } = page;
    if (draft) return [];
    const who = reachOf(prepared, page, at);
    if (who.closed !== null || clausesOf(who.condition, prepared.names)?.length !== 0) return [];
    return [
      {
        code: 'nobody-reaches',
        severity: 'medium',
        subject: { kind: 'page', name: address },
        place,
        values: {
          page: address,
          unmet: who.condition.is === 'nobody' ? null : who.condition,
          isByFullAccess: who.byFullAccess !== null,
          gates: who.gates,
        },
      },
    ];
  });
}
