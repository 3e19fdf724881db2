import { decodePathText } from '../address/canonical-path.ts';
import type { Group, Part, Pattern } from '../model/pattern.ts';

/** What the groups of a pattern matched, by name; a group that took no part is absent. */
export type Groups = Readonly<Record<string, string>>;

/**
 * Fills a pattern with what another one matched: the inverse of matching.
 *
 * @param pattern the pattern to fill
 * @param groups values by group name, written as they stand in a canonical path
 * @returns the filled text
 */
export function fillPattern(pattern: Pattern, groups: Groups): string {
  return pattern.parts.map((part) => fillPart(part, groups)).join('');
}

function fillPart(part: Part, groups: Groups): string {
  if (part.is === 'text') return part.modifier === '' || part.modifier === '+' ? part.value : '';
  const value = groups[part.name];
  if (value === undefined) return isOptional(part) ? '' : part.prefix + part.suffix;
  return part.prefix + value + part.suffix;
}

const isOptional = (part: Group): boolean => part.modifier === '?' || part.modifier === '*';

/** What groups matched, percent-decoded: as conditions see it. */
export function decodeGroups(groups: Groups): Groups {
  return Object.fromEntries(
    Object.entries(groups).map(([name, value]) => [name, decodePathText(value)]),
  );
}
