import type { Accepted } from '../model/site.ts';
import type { FindingDraft } from './finding-draft.ts';
import { aboutOf } from '../model/finding.ts';

/** Whether an acceptance is for a finding. */
export const accepts = ({ finding, about }: Accepted, { code, subject }: FindingDraft): boolean =>
  finding === code && (about === null || about === aboutOf(subject));

/** Something was accepted that is no longer found: the note would hide it if it came back. */
export function unusedAcceptance(
  accepted: readonly Accepted[],
  found: readonly FindingDraft[],
): FindingDraft[] {
  return (
    accepted
      // Whether a draft waits is for the service to tell.
      .filter((one) => one.finding !== 'draft-waited')
      .filter((one) => !found.some((finding) => accepts(one, finding)))
      .map(({ finding, about, place }) => ({
        code: 'unused-acceptance',
        severity: 'low' as const,
        subject: { kind: 'accepted', name: finding },
        place,
        values: { finding, about },
      }))
  );
}
