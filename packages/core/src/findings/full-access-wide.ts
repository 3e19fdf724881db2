import { clausesOf } from '../condition/clauses.ts';
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
      subject: { kind: 'site', name: 'full-access' },
      place,
      values: { condition: fullAccess },
    },
  ];
}
