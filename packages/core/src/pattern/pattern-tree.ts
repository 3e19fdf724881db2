import type { Pattern } from '../model/pattern.ts';
import type { Groups } from './fill.ts';
import { sectionHead, type Matching } from './matched-groups.ts';
import { regexpOf } from './regexp.ts';
import type { Segment, Shape } from './shape.ts';
import type { Specificity } from './specificity.ts';

export interface Match<T> {
  readonly rule: T;
  readonly groups: Groups;
}

/** A rule in the index, once for each shape of its pattern. */
export interface Entry<T> extends Specificity, Match<T>, Matching {
  readonly shape: Shape;
  readonly under: boolean;
  readonly rule: T;
  readonly name: string;
}

interface Mixed<T> {
  readonly matcher: Pick<Pattern, 'parts' | 'ignoreCase'>;
  readonly node: Node<T>;
}

/** A tree of the segments of patterns. */
export interface Node<T> {
  literals: Map<string, Node<T>> | null;
  /** A bit for each letter that a literal begins with: most segments are ruled out by their first. */
  letters: number;
  group: Node<T> | null;
  mixed: MixedChildren<T> | null;
  ends: Entry<T>[] | null;
  unders: Entry<T>[] | null;
  /** Patterns that go on over any number of segments, by their last one where it is plain text. */
  tails: Map<string | null, Entry<T>[]> | null;
}

/**
 * Mixed segments by their plain beginning and end, so that finding the ones that a segment could
 * match costs its length and not their number.
 */
interface MixedChildren<T> {
  readonly lengths: [prefix: number, suffix: number][];
  readonly byEnds: Map<string, Mixed<T>[]>;
  readonly byKey: Map<string, Mixed<T>>;
}

const NONE: readonly never[] = [];

/** A node of the tree that nothing is below yet. */
export function emptyNode<T>(): Node<T> {
  return {
    literals: null,
    letters: 0,
    group: null,
    mixed: null,
    ends: null,
    unders: null,
    tails: null,
  };
}

function noMixed<T>(): MixedChildren<T> {
  return { lengths: [], byEnds: new Map(), byKey: new Map() };
}

/** Adds a value to the list that a map has at a key. */
export function push<K, V>(map: Map<K, V[]>, key: K, value: V): void {
  const list = map.get(key);
  if (list) list.push(value);
  else map.set(key, [value]);
}

/** Puts a rule into the tree. */
export function insert<T>(root: Node<T>, entry: Entry<T>): void {
  let node = root;
  for (const segment of entry.shape.segments)
    node = childFor(node, segment, entry.pattern.ignoreCase);
  if (entry.shape.tail)
    push(
      (node.tails ??= new Map<string | null, Entry<T>[]>()),
      entry.shape.tail.lastSegment,
      entry,
    );
  else if (entry.under) (node.unders ??= []).push(entry);
  else (node.ends ??= []).push(entry);
}

function childFor<T>(node: Node<T>, segment: Segment, ignoreCase: boolean): Node<T> {
  if (segment.is === 'group') return (node.group ??= emptyNode());
  if (segment.is === 'literal') {
    const literals = (node.literals ??= new Map<string, Node<T>>());
    let child = literals.get(segment.text);
    if (!child) {
      literals.set(segment.text, (child = emptyNode<T>()));
      node.letters |= letterOf(segment.text, 0);
    }
    return child;
  }
  const mixed = (node.mixed ??= noMixed());
  const known = mixed.byKey.get(segment.key);
  if (known) return known.node;
  const child = { matcher: { parts: segment.parts, ignoreCase }, node: emptyNode<T>() };
  mixed.byKey.set(segment.key, child);
  push(mixed.byEnds, `${segment.prefix}/${segment.suffix}`, child);
  const [prefix, suffix] = [segment.prefix.length, segment.suffix.length];
  if (!mixed.lengths.some(([p, s]) => p === prefix && s === suffix))
    mixed.lengths.push([prefix, suffix]);
  return child.node;
}

/** The bit of the letter at a place; an empty segment has the first one. */
function letterOf(text: string, at: number): number {
  const code = text.charCodeAt(at);
  return code === 0x2f ? 1 : 1 << (code & 31);
}

/** Collects what matches from `node` on; `start` is where the next slash stands. */
export function descend<T>(node: Node<T>, path: string, start: number, found: Entry<T>[]): void {
  if (node.unders !== null) for (const entry of node.unders) found.push(entry);
  if (start >= path.length) {
    if (node.ends !== null) for (const entry of node.ends) found.push(entry);
  } else {
    const mayBeLiteral = (node.letters & letterOf(path, start + 1)) !== 0;
    if (mayBeLiteral || node.group !== null || node.mixed !== null) {
      let end = path.indexOf('/', start + 1);
      if (end === -1) end = path.length;
      const segment = path.slice(start + 1, end);
      const literal = mayBeLiteral ? node.literals!.get(segment) : undefined;
      if (literal) descend(literal, path, end, found);
      if (node.mixed !== null) descendMixed(node.mixed, segment, path, end, found);
      if (node.group !== null && segment !== '') descend(node.group, path, end, found);
    }
  }
  if (node.tails !== null) collectTails(node.tails, path, start, found);
}

function descendMixed<T>(
  mixed: MixedChildren<T>,
  segment: string,
  path: string,
  end: number,
  found: Entry<T>[],
): void {
  for (const [prefix, suffix] of mixed.lengths) {
    if (prefix + suffix > segment.length) continue;
    const candidates = mixed.byEnds.get(
      `${segment.slice(0, prefix)}/${suffix === 0 ? '' : segment.slice(-suffix)}`,
    );
    if (!candidates) continue;
    for (const { matcher, node } of candidates) {
      if (regexpOf(matcher).matches(segment)) descend(node, path, end, found);
    }
  }
}

function collectTails<T>(
  tails: Map<string | null, Entry<T>[]>,
  path: string,
  start: number,
  found: Entry<T>[],
): void {
  for (const entry of tails.get(null) ?? NONE) {
    if (entry.shape.tail!.wildcard !== null ? start < path.length : matchesWhole(entry, path))
      found.push(entry);
  }
  for (const entry of tails.get(path.slice(path.lastIndexOf('/') + 1)) ?? NONE) {
    if (matchesWhole(entry, path)) found.push(entry);
  }
}

function matchesWhole<T>(entry: Entry<T>, path: string): boolean {
  if (!entry.under) return regexpOf(entry.pattern).matches(path);
  return sectionHead(entry.pattern, path) !== null;
}
