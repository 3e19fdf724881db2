import { isInForce } from '../time/period.ts';
import { NONE } from '../explore/visitor-sets.ts';
import { lookUp, type Match } from '../pattern/pattern-index.ts';
import { literalOf } from '../model/pattern.ts';
import { decodeGroups } from '../pattern/fill.ts';
import { pathOf } from '../decision/page-at.ts';
import type { Gate } from '../model/site.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A gate inside a section lets people in whom the section keeps out. */
export function openBeneath({ prepared, explorer, at }: InspectionContext): FindingDraft[] {
  const seen = new Set<string>();
  return prepared.site.pages.flatMap((page): FindingDraft[] => {
    const [near, above] = lookUp(prepared.gates.view, pathOf(prepared, page)).filter(({ rule }) =>
      isInForce(rule, at),
    );
    if (!near || !above) return [];
    const [inner, outer] = [near.rule, above.rule];
    if (inner.narrows || seen.has(inner.name) || !isSection(outer)) return [];
    const { sets } = explorer.atoms;
    const admitted = ({ rule, groups }: Match<Gate>): number =>
      explorer.atoms.setOf(
        rule.admit,
        literalOf(page.pattern) === null ? null : { path: decodeGroups(groups), query: '' },
      );
    const full =
      outer.fullAccess && prepared.site.fullAccess !== null
        ? explorer.atoms.setOf(prepared.site.fullAccess, null)
        : NONE;
    const keptOut = sets.without(admitted(near), admitted(above));
    // Whoever has full access is let in by the gate above as well.
    if (!explorer.atoms.isAnyone(sets.without(keptOut, full))) return [];
    const who = explorer.describe(keptOut);
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
