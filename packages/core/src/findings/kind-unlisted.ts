import { declaredVisitor } from '../explore/declared-visitor.ts';
import { NONE } from '../explore/visitor-sets.ts';
import { kindsOf, type Kinds } from '../kinds/kinds.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import type { Visitor } from '../model/visitor.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A kind of visitors with one role, group or purchase that nobody in the list is of: the grid does not show them. */
export function kindUnlisted({ prepared, explorer, at }: InspectionContext): FindingDraft[] {
  const { pages, visitors, place } = prepared.site;
  // Who lists nobody does not look at the grid.
  if (visitors.length === 0) return [];
  const found = kindsUnlessTooMany(() =>
    kindsOf(
      explorer,
      pages.filter(({ inGrid }) => inGrid),
    ),
  );
  return found.kinds
    .filter(
      (kind) =>
        traitsOf(kind.example) <= 1 &&
        visitors.every((one) => explorer.atoms.knowing(kind.visitors, one, at) === NONE),
    )
    .flatMap((kind): FindingDraft[] => {
      const who = explorer.describe(kind.visitors, found.others);
      if (who === null) return [];
      const { summary } = kind.example;
      const name = summary.replace(/[^\p{L}\p{N}]+/gu, '-').toLowerCase();
      const isTaken = visitors.some((one) => one.name === name);
      const value = declaredVisitor(kind.example);
      return [
        {
          code: 'kind-unlisted',
          severity: 'low',
          subject: { kind: 'visitor', name },
          place,
          values: { who, summary },
          fix: isTaken ? null : [{ op: 'add', path: `/visitors/${name}`, value }],
        },
      ];
    });
}

const traitsOf = ({ roles, groups, bought, attributes }: Visitor): number =>
  roles.length + groups.length + bought.length + Object.keys(attributes).length;

function kindsUnlessTooMany(find: () => Kinds): Kinds {
  try {
    return find();
  } catch (error) {
    // What can't be listed is no fault of the site.
    if (error instanceof TooManyCases) return { kinds: [], others: NONE, mostTraits: null };
    throw error;
  }
}
