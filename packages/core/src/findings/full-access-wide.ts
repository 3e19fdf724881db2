import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** Full access is not bound to a role, a group or a person: anyone who signs in could have it. */
export function fullAccessWide({ prepared, explorer }: InspectionContext): FindingDraft[] {
  const { fullAccess, place } = prepared.site;
  if (fullAccess === null) return [];
  const { atoms } = explorer;
  const given = atoms.setOf(fullAccess, null);
  const unnamed = atoms.without((condition) => ['role', 'group', 'person'].includes(condition.is));
  if (!atoms.isAnyone(atoms.sets.and(given, unnamed))) return [];
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
