import { visit } from '../visit/visit.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { openingGate } from './sign-in-closed.ts';
import { GUEST } from '../model/visitor.ts';

/** Pages that everyone must be able to read before they agree to anything. */
const LEGAL =
  /\/(?:terms(?:-of-\w+)?|privacy(?:-\w+)?|imprint|legal(?:-notice)?|cookies|accessibility)(?:\.\w+)?$/;

/** Guests can't read the terms or the privacy page. */
export function legalPageClosed({ prepared, at }: InspectionContext): FindingDraft[] {
  const { pages, gates } = prepared.site;
  return pages
    .filter(({ address, draft }) => LEGAL.test(address) && !draft)
    .flatMap(({ address, title, example, place }): FindingDraft[] => {
      const { outcome } = visit(prepared, { method: 'GET', address: example }, GUEST, at);
      if (outcome !== 'sign-in' && outcome !== 'block') return [];
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
