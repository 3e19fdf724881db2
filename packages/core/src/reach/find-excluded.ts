import { clausesOf } from '../condition/clauses.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import type { Condition } from '../model/condition.ts';
import type { People } from '../model/finding.ts';

/**
 * Who is among some and not among others: proved from the conditions, not tried on a sample.
 * @param byFullAccess whether full access lets in those others do not have among them
 * @returns null when there can be nobody
 */
export function findExcluded(
  prepared: PreparedSite,
  among: Condition,
  notAmong: Condition,
  byFullAccess = true,
): People | null {
  const { site, names } = prepared;
  const outside: Condition = { is: 'and', of: [among, { is: 'not', of: notAmong }] };
  // Whoever has full access is let in whatever the rules say, but for the gates that are exempt from it.
  const left: Condition =
    site.fullAccess === null || !byFullAccess
      ? outside
      : { is: 'and', of: [outside, { is: 'not', of: site.fullAccess }] };
  const clauses = clausesOf(left, names);
  if (clauses?.length === 0) return null;
  return { condition: outside, clauses: clausesOf(outside, names) ?? clauses };
}
