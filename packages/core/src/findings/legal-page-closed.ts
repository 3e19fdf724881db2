import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { openingGate, turnedAwayGuests } from './sign-in-closed.ts';

/** Pages that everyone must be able to read before they agree to anything. */
const LEGAL =
  /\/(?:terms(?:-of-\w+)?|privacy(?:-\w+)?|imprint|legal(?:-notice)?|cookies|accessibility)(?:\.\w+)?$/;

/** Guests can't read the terms or the privacy page. */
export function legalPageClosed({ prepared, explorer }: InspectionContext): FindingDraft[] {
  const { pages, gates } = prepared.site;
  return pages
    .filter(({ address, draft }) => LEGAL.test(address) && !draft)
    .flatMap(({ address, title, example, place }): FindingDraft[] => {
      const outcome = turnedAwayGuests(explorer, example)?.outcome;
      if (outcome === undefined) return [];
      return [
        {
          code: 'legal-page-closed',
          severity: 'high',
          subject: { kind: 'page', name: address },
          place,
          values: { page: address, title, outcome },
          fix: openingGate(
            address,
            gates.map(({ name }) => name),
          ),
        },
      ];
    });
}
