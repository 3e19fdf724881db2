import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { literalOf } from '../model/pattern.ts';
import { redirectSamples } from './redirect-samples.ts';

/** The target of a redirect is no page. */
export function redirectDeadEnd(inspected: InspectionContext): FindingDraft[] {
  return redirectSamples(inspected)
    .filter(({ redirect, outcome, page }) => {
      // Where the address is filled in, an example says nothing about the others.
      const isPlain = literalOf(redirect.pattern) !== null && literalOf(redirect.to.path) !== null;
      return isPlain && outcome === 'missing' && page === null;
    })
    .map(({ redirect, final }) => ({
      code: 'redirect-dead-end',
      severity: 'medium',
      subject: { kind: 'redirect', name: redirect.source },
      place: redirect.place,
      values: { source: redirect.source, location: final },
    }));
}
