import { lookUp } from '../pattern/pattern-index.ts';
import { literalOf } from '../model/pattern.ts';
import { findExcluded } from '../reach/find-excluded.ts';
import { pathOf } from '../reach/who-reaches.ts';
import type { Gate } from '../model/site.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A gate inside a section lets people in whom the section keeps out. */
export function openBeneath({ prepared }: InspectionContext): FindingDraft[] {
  const seen = new Set<string>();
  return prepared.site.pages.flatMap((page): FindingDraft[] => {
    const [inner, outer] = lookUp(prepared.gates.view, pathOf(prepared, page)).map(
      ({ rule }) => rule,
    );
    if (!inner || !outer || inner.narrows || seen.has(inner.name) || !isSection(outer)) return [];
    const who = findExcluded(prepared, inner.admit, outer.admit, outer.fullAccess);
    if (who === null) return [];
    seen.add(inner.name);
    return [
      {
        code: 'open-beneath',
        severity: isException(inner) ? 'low' : 'medium',
        subject: { kind: 'gate', name: inner.name },
        place: inner.place,
        values: {
          gate: inner.name,
          above: outer.name,
          who,
          scopes: inner.scopes,
          isException: isException(inner),
        },
      },
    ];
  });
}

/** It stands at single pages, as people write what is to be open in a closed section. */
const isException = ({ scopes: scopes }: Gate): boolean =>
  scopes.every(({ pattern, under }) => !under && literalOf(pattern) !== null);

const isSection = ({ scopes: scopes }: Gate): boolean => scopes.some(({ under }) => under);
