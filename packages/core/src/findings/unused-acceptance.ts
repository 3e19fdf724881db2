import type { Accepted } from '../model/site.ts';
import type { FindingDraft } from './finding-draft.ts';

/** Something was accepted that is no longer found: the note would hide it if it came back. */
export function unusedAcceptance(
  accepted: readonly Accepted[],
  found: readonly FindingDraft[],
): FindingDraft[] {
  return accepted
    .filter(
      ({ finding, about }) =>
        !found.some((one) => one.code === finding && (about === null || one.about === about)),
    )
    .map(({ finding, about, place }) => ({
      code: 'unused-acceptance',
      severity: 'low' as const,
      about: `accepted ${finding}`,
      place,
      values: { finding, about },
    }));
}
