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
  readonly prefix: string;
  readonly group: 'segment' | 'wildcard' | null;
  readonly suffix: string;
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
          prefix: part.is === 'text' ? part.value : part.prefix,
          group: part.is === 'segment' || part.is === 'wildcard' ? part.is : null,
          suffix: part.is === 'text' ? '' : part.suffix,
        }));
  plainParts.set(pattern, parts);
  return parts;
}

/** Sets of the places of a path, its end among them: one bit each, the end the lowest. */
class Places {
  private readonly known = new Map<string, bigint>();
  private readonly all: bigint;

  constructor(readonly path: string) {
    this.all = (1n << BigInt(path.length + 1)) - 1n;
  }

  /** The places at which a text begins. */
  of(text: string): bigint {
    if (text === '') return this.all;
    let found = this.known.get(text);
    if (found !== undefined) return found;
    let bits = '';
    for (let at = this.path.indexOf(text); at !== -1; at = this.path.indexOf(text, at + 1))
      bits += `${'0'.repeat(at - bits.length)}1`;
    found = BigInt(`0b${bits.padEnd(this.path.length + 1, '0')}`);
    this.known.set(text, found);
    return found;
  }

  /** The places from which a group may reach one of some ends: a segment has a character at least, and no slash. */
  reaching(ends: bigint, group: 'segment' | 'wildcard'): bigint {
    if (group === 'wildcard') return ends === 0n ? 0n : this.all & -(ends & -ends);
    const within = this.all & ~this.of('/') & ~1n;
    const last = (ends << 1n) & within;
    // The sum carries from each last place through all before it, up to a slash.
    return (((last + within) ^ within) & within) | last;
  }

  /** The first place of a set that is not before another; -1 where none is. */
  first(set: bigint, from: number): number {
    return this.highest(this.notBefore(set, from));
  }

  /** The same for the last place. */
  last(set: bigint, from: number): number {
    const left = this.notBefore(set, from);
    return this.highest(left & -left);
  }

  private notBefore(set: bigint, from: number): bigint {
    return BigInt.asUintN(Math.max(0, this.path.length - from + 1), set);
  }

  private highest(set: bigint): number {
    if (set === 0n) return -1;
    const digits = set.toString(16);
    const bits = digits.length * 4 - Math.clz32(Number(`0x${digits[0]}`)) + 28;
    return this.path.length - bits + 1;
  }
}

/**
 * What plain parts take of a path, as a regular expression would. It costs a few operations on sets of places for each
 * part; a regular expression costs the length of the path and the square of the number of parts.
 *
 * @returns null where they do not match the path
 */
function takenByPlain(parts: readonly PlainPart[], path: string): (string | null)[] | null {
  const places = new Places(path);
  // The places from which the rest of the parts matches; from the last part to the first.
  const rests: bigint[] = [];
  let rest = 1n;
  for (let i = parts.length - 1; i >= 0; i--) {
    rests[i] = rest;
    rest = beginsOf(parts[i]!, places, rest);
  }
  if (rest >> BigInt(path.length) === 0n) return null;
  const taken: (string | null)[] = [];
  let at = 0;
  parts.forEach((part, i) => {
    const isThere = path.startsWith(part.prefix, at);
    const start = at + part.prefix.length;
    const rest = rests[i]!;
    if (part.group === null) {
      if (isThere && places.first(rest, start) === start) at = start;
      return;
    }
    const end = isThere ? endOf(part, part.group, places, start, rest) : -1;
    taken.push(end === -1 ? null : path.slice(start, end));
    if (end !== -1) at = end + part.suffix.length;
  });
  return taken;
}

/** A segment ends as early as it can, and has a character at least; a wildcard ends as late as it can. */
function endOf(
  { suffix }: PlainPart,
  group: 'segment' | 'wildcard',
  places: Places,
  start: number,
  rest: bigint,
): number {
  const ends = endsOf(suffix, places, rest);
  if (group === 'wildcard') return places.last(ends, start);
  const end = places.first(ends, start + 1);
  const slash = places.path.indexOf('/', start);
  return slash === -1 || end <= slash ? end : -1;
}

/** The places at which a group may end: the suffix begins there, and the rest matches behind it. */
const endsOf = (suffix: string, places: Places, rest: bigint): bigint =>
  places.of(suffix) & (rest << BigInt(suffix.length));

/** The places from which a part and the rest match. */
function beginsOf(part: PlainPart, places: Places, rest: bigint): bigint {
  const { prefix, group, suffix, isOptional } = part;
  const behind = group === null ? rest : places.reaching(endsOf(suffix, places, rest), group);
  const begins = places.of(prefix) & (behind << BigInt(prefix.length));
  return isOptional ? begins | rest : begins;
}
