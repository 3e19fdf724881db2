import { clausesOf } from '../condition/clauses.ts';
import { printCondition } from '../condition/print.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** Full access is not bound to a role, a group or a person: anyone who signs in could have it. */
export function fullAccessWide({ prepared }: InspectionContext): FindingDraft[] {
  const { fullAccess, place } = prepared.site;
  if (fullAccess === null) return [];
  const clauses = clausesOf(fullAccess, prepared.names);
  const isBound = clauses?.every((clause) =>
    [...clause.values()].some(
      ({ atom, holds }) => holds && ['role', 'group', 'person'].includes(atom.is),
    ),
  );
  if (isBound !== false) return [];
  return [
    {
      code: 'full-access-wide',
      severity: 'high',
      about: 'site full-access',
      place,
      message: `Full access is given to ${printCondition(fullAccess)}: people get it without a role, a group or a name.`,
      remedy: 'Give it to a role, as in "full-access: role administrator".',
    },
  ];
}
