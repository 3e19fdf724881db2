import { readsOf } from '../condition/reads.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A permanent redirect depends on who asks: browsers would keep it for whoever comes next. */
export function redirectPermanentForSome({
  prepared: { site, names },
}: InspectionContext): FindingDraft[] {
  return site.redirects.flatMap((redirect, position): FindingDraft[] => {
    const { source: name, kind, when, place } = redirect;
    if (kind !== 'permanent' || when === null || !readsOf(when, names).visitor) return [];
    return [
      {
        code: 'redirect-permanent-for-some',
        severity: 'medium',
        subject: { kind: 'redirect', name: name },
        place,
        values: { source: name },
        fix:
          place.file === undefined
            ? [{ op: 'replace', path: pointer('redirects', position, 'kind'), value: 'temporary' }]
            : null,
      },
    ];
  });
}
