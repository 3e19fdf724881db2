import type { Pattern } from '../model/pattern.ts';
import type { Groups } from './fill.ts';
import { regexpOf } from './regexp.ts';
import type { Shape } from './shape.ts';

/** A pattern that matched, or may match. */
export interface Matching {
  readonly pattern: Pattern;
  /** Matches everything beneath the pattern too. */
  readonly under: boolean;
  readonly shape: Shape;
  /** For each group of a pattern that needs no regular expression: its name and its segment. */
  readonly slots: readonly (readonly [name: string, segment: number])[] | null;
}

export const NO_GROUPS: Groups = Object.freeze({});

/** The longest beginning of `path`, cut at a slash, that a section's pattern matches. */
export function sectionHead(pattern: Pattern, path: string): string | null {
  for (let end = path.length; end > 0; end = path.lastIndexOf('/', end - 1)) {
    if (regexpOf(pattern).matches(path.slice(0, end))) return path.slice(0, end);
  }
  return null;
}

/** What the groups of a pattern took of a path that it matches. */
export function groupsIn({ slots, pattern, shape, under }: Matching, path: string): Groups {
  if (pattern.names.length === 0) return NO_GROUPS;
  const groups: Record<string, string> = {};
  if (slots !== null) {
    let segment = 0;
    let start = 0;
    for (const [name, position] of slots) {
      for (; segment < position; segment++) start = path.indexOf('/', start + 1);
      const isTail = shape.tail !== null && position === shape.segments.length;
      const end = isTail ? -1 : path.indexOf('/', start + 1);
      groups[name] = path.slice(start + 1, end === -1 ? path.length : end);
    }
    return groups;
  }
  return groupsTaken(pattern, under ? (sectionHead(pattern, path) ?? path) : path);
}

/** The same for a path that the whole pattern matches; none where it does not. */
export function groupsTaken(pattern: Pattern, path: string): Groups {
  const groups: Record<string, string> = {};
  const matcher = regexpOf(pattern).matcher(path);
  if (!matcher.matches()) return groups;
  const parts = pattern.parts.filter((part) => part.is !== 'text');
  parts.forEach((part, position) => {
    const value = matcher.group(position + 1);
    // In ECMAScript, which the standard builds on, an optional group that matches nothing takes no part.
    const isEmptyOption = value === '' && part.modifier === '?' && part.prefix + part.suffix === '';
    if (value !== null && !isEmptyOption) groups[part.name] = value;
  });
  return groups;
}
