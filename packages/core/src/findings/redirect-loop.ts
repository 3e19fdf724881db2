import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { redirectSamples } from './redirect-samples.ts';

/** A redirect leads back to where it came from, at once or after others: browsers give up. */
export function redirectLoop(inspected: InspectionContext): FindingDraft[] {
  return redirectSamples(inspected)
    .filter(({ outcome }) => outcome === 'loop')
    .map(({ redirect, address, met, final }) => ({
      code: 'redirect-loop',
      severity: 'high',
      subject: { kind: 'redirect', name: redirect.source },
      place: redirect.place,
      values: { address, met: [...met, final] },
    }));
}
