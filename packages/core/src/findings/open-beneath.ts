import { isInForce } from '../time/period.ts';
import { NONE } from '../explore/visitor-sets.ts';
import { lookUp, type Match } from '../pattern/pattern-index.ts';
import { literalOf } from '../model/pattern.ts';
import { decodeGroups } from '../pattern/fill.ts';
import { normalizePath } from '../address/tidy.ts';
import type { Family } from '../explore/families.ts';
import type { Gate } from '../model/site.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A gate inside a section lets people in whom the section keeps out. */
export function openBeneath({
  prepared,
  explorer,
  familiesOf,
  at,
}: InspectionContext): FindingDraft[] {
  const seen = new Set<string>();
  const examine = (family: Family): FindingDraft[] => {
    const { example } = family;
    const [near, above] = lookUp(
      prepared.gates.view,
      normalizePath(example, prepared.site.tidy),
    ).filter(({ rule }) => isInForce(rule, at));
    if (!near || !above) return [];
    const [inner, outer] = [near.rule, above.rule];
    if (inner.narrows || seen.has(inner.name) || !isSection(outer)) return [];
    const own = explorer.within(family);
    const { atoms } = own;
    const admitted = ({ rule, groups }: Match<Gate>): number =>
      atoms.setOf(rule.admit, {
        path: decodeGroups(groups),
        query: '',
        isQueryOpen: true,
      });
    const full =
      outer.fullAccess && prepared.site.fullAccess !== null
        ? atoms.setOf(prepared.site.fullAccess, null)
        : NONE;
    const keptOut = atoms.sets.without(admitted(near), admitted(above));
    // Whoever has full access is let in by the gate above as well.
    if (!atoms.isAnyone(atoms.sets.without(keptOut, full))) return [];
    const who = own.describe(keptOut);
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
  };
  return prepared.site.pages.flatMap((page) => familiesOf(page).flatMap(examine));
}

/** It stands at single pages, as people write what is to be open in a closed section. */
const isException = ({ scopes: scopes }: Gate): boolean =>
  scopes.every(({ pattern, under }) => !under && literalOf(pattern) !== null);

const isSection = ({ scopes: scopes }: Gate): boolean => scopes.some(({ under }) => under);
