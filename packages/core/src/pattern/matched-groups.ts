import type { Part, Pattern } from '../model/pattern.ts';
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
  const plain = plainPartsOf(pattern);
  const taken = plain ? takenByPlain(plain, path) : takenByRegexp(pattern, path);
  if (!taken) return groups;
  const parts = pattern.parts.filter((part) => part.is !== 'text');
  parts.forEach((part, position) => {
    const value = taken[position] ?? null;
    // In ECMAScript, which the standard builds on, an optional group that matches nothing takes no part.
    const isEmptyOption = value === '' && part.modifier === '?' && part.prefix + part.suffix === '';
    if (value !== null && !isEmptyOption) groups[part.name] = value;
  });
  return groups;
}

function takenByRegexp(pattern: Pattern, path: string): (string | null)[] | null {
  const matcher = regexpOf(pattern).matcher(path);
  if (!matcher.matches()) return null;
  return pattern.names.map((_, position) => matcher.group(position + 1));
}

/** A part without a regular expression of its own, which matches once or not at all. */
interface PlainPart {
  readonly isOptional: boolean;
  /** A text has nothing else. */
  readonly prefix: Uint16Array;
  readonly group: 'segment' | 'wildcard' | null;
  readonly suffix: Uint16Array;
}

const plainParts = new WeakMap<Pattern, readonly PlainPart[] | null>();

/** The parts of a pattern; null where some of them are not plain. */
function plainPartsOf(pattern: Pattern): readonly PlainPart[] | null {
  const known = plainParts.get(pattern);
  if (known !== undefined) return known;
  const isPlain = (part: Part): boolean =>
    part.is !== 'regexp' && (part.modifier === '' || part.modifier === '?');
  const parts =
    pattern.ignoreCase || !pattern.parts.every(isPlain)
      ? null
      : pattern.parts.map((part): PlainPart => ({
          isOptional: part.modifier === '?',
          prefix: codesOf(part.is === 'text' ? part.value : part.prefix),
          group: part.is === 'segment' || part.is === 'wildcard' ? part.is : null,
          suffix: codesOf(part.is === 'text' ? '' : part.suffix),
        }));
  plainParts.set(pattern, parts);
  return parts;
}

function codesOf(text: string): Uint16Array {
  const codes = new Uint16Array(text.length);
  for (let i = 0; i < text.length; i++) codes[i] = text.charCodeAt(i);
  return codes;
}

const SLASH = 0x2f;

/**
 * What plain parts take of a path, as a regular expression would. It costs the length of the path for each part; a
 * regular expression costs the square of the number of parts.
 *
 * @returns null where they do not match the path
 */
function takenByPlain(parts: readonly PlainPart[], path: string): (string | null)[] | null {
  const codes = codesOf(path);
  // For each place whether the rest of the parts matches from there on; from the last part to the first.
  const rests: Uint8Array[] = [];
  let rest = new Uint8Array(codes.length + 1);
  rest[codes.length] = 1;
  for (let i = parts.length - 1; i >= 0; i--) {
    rests[i] = rest;
    rest = beginsOf(parts[i]!, codes, rest);
  }
  if (!rest[0]) return null;
  const taken: (string | null)[] = [];
  let at = 0;
  parts.forEach((part, i) => {
    const start = at + part.prefix.length;
    const isThere = standsAt(part.prefix, codes, at);
    if (part.group === null) {
      if (isThere && rests[i]![start]) at = start;
      return;
    }
    const end = isThere ? endOf(part, codes, start, rests[i]!) : -1;
    taken.push(end === -1 ? null : path.slice(start, end));
    if (end !== -1) at = end + part.suffix.length;
  });
  return taken;
}

function standsAt(text: Uint16Array, codes: Uint16Array, at: number): boolean {
  for (let i = 0; i < text.length; i++) if (codes[at + i] !== text[i]) return false;
  return true;
}

const endsAt = ({ suffix }: PlainPart, codes: Uint16Array, at: number, rest: Uint8Array): boolean =>
  rest[at + suffix.length] === 1 && standsAt(suffix, codes, at);

/** A segment ends as early as it can, and has a character at least; a wildcard ends as late as it can. */
function endOf(part: PlainPart, codes: Uint16Array, start: number, rest: Uint8Array): number {
  if (part.group === 'wildcard') {
    for (let at = codes.length; at >= start; at--) if (endsAt(part, codes, at, rest)) return at;
  } else
    for (let at = start + 1; at <= codes.length && codes[at - 1] !== SLASH; at++)
      if (endsAt(part, codes, at, rest)) return at;
  return -1;
}

/** For each place whether a part and the rest match from there on. */
function beginsOf(part: PlainPart, codes: Uint16Array, rest: Uint8Array): Uint8Array<ArrayBuffer> {
  const { prefix, group, isOptional } = part;
  const begins = isOptional ? rest.slice() : new Uint8Array(codes.length + 1);
  const isSegment = group === 'segment';
  // Whether a group that began before the place can end at it, or behind it.
  let isOpen = false;
  for (let at = codes.length; at >= 0; at--) {
    let isTaken = group === null && rest[at] === 1;
    if (group !== null) {
      const isSlash = codes[at] === SLASH;
      if (isSegment) isTaken = isOpen && !isSlash;
      if (endsAt(part, codes, at, rest)) isOpen = true;
      else if (isSegment && isSlash) isOpen = false;
      if (!isSegment) isTaken = isOpen;
    }
    const begin = at - prefix.length;
    if (isTaken && begin >= 0 && standsAt(prefix, codes, begin)) begins[begin] = 1;
  }
  return begins;
}
