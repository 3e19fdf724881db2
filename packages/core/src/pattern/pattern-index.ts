import type { Groups } from './fill.ts';
import { literalOf, type Pattern } from '../model/pattern.ts';
import { regexpOf } from './regexp.ts';
import { shapeOf, shapesOf, type Segment, type Shape, patternShapeKey } from './shape.ts';
import { compareSpecificity, type Specificity } from './specificity.ts';

/** A rule as the index takes it; what is not said here, `Specificity` says. */
export interface Indexed<T> {
  readonly rule: T;
  readonly pattern: Pattern;
  /** Matches everything beneath the pattern too. */
  readonly under: boolean;
  readonly rank: number;
  readonly fields: number;
  readonly values: number;
  readonly conditional: boolean;
  /** A field that the query must have with this value; what else it must have is for the rule to say. */
  readonly only?: QueryValue | undefined;
  /** Breaks ties in a way that does not depend on the order of the rules in the file. */
  readonly name: string;
}

export interface QueryValue {
  readonly field: string;
  readonly value: string;
}

export interface Match<T> {
  readonly rule: T;
  readonly groups: Groups;
}

interface Entry<T> extends Specificity, Match<T> {
  readonly rule: T;
  readonly name: string;
  readonly pattern: Pattern;
  /** For each group of a pattern that needs no regular expression: its name and its segment. */
  readonly slots: readonly (readonly [name: string, segment: number])[] | null;
}

interface Mixed<T> {
  readonly matcher: Pick<Pattern, 'parts' | 'ignoreCase'>;
  readonly node: Node<T>;
}

interface Node<T> {
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

/**
 * All patterns of one kind of rule, arranged so that looking up an address costs its length and not
 * the number of patterns. Plain addresses are one hash look-up; the others a walk down a tree of segments.
 */
export interface PatternIndex<T> {
  readonly plain: ReadonlyMap<string, readonly Entry<T>[]>;
  /** Plain addresses with rules for one value of a field, by which thousands may differ: those fields. */
  readonly fields: ReadonlyMap<string, ReadonlySet<string>>;
  readonly root: Node<T> | null;
}

const NONE: readonly never[] = [];
const NO_GROUPS: Groups = Object.freeze({});

/** Builds the index. Costs the number of rules, once for each state of a site. */
export function buildIndex<T>(rules: Iterable<Indexed<T>>): PatternIndex<T> {
  const plain = new Map<string, Entry<T>[]>();
  const fields = new Map<string, Set<string>>();
  let root: Node<T> | null = null;
  for (const indexed of rules) {
    const { rule, pattern, under, rank, fields: asked, values, conditional, only, name } = indexed;
    const literal = under ? null : literalOf(pattern);
    const shapes = literal?.startsWith('/') ? [literalShape(literal)] : shapesOf(pattern.parts);
    for (const shape of shapes) {
      // Where several shapes match, which group takes what is for the whole expression to say.
      const slots = shapes.length === 1 ? slotsOf(shape) : null;
      const entry: Entry<T> = {
        rule,
        groups: NO_GROUPS,
        name,
        pattern,
        slots,
        shape,
        under,
        rank,
        fields: asked,
        values,
        conditional,
      };
      const address = under ? null : (literal ?? plainAddress(shape));
      if (address === null) insert((root ??= emptyNode()), entry);
      else if (only === undefined) push(plain, address, entry);
      else {
        push(plain, keyOf(address, only.field, only.value), entry);
        const known = fields.get(address);
        if (known) known.add(only.field);
        else fields.set(address, new Set([only.field]));
      }
    }
  }
  for (const same of plain.values()) if (same.length > 1) same.sort(byPrecedence);
  return { plain, fields, root };
}

// A newline stands in no canonical path, so that no address is taken for one with a query.
const keyOf = (address: string, field: string, value: string): string =>
  `${address}\n${field}\n${value}`;

/**
 * All rules that match a path, the most specific first.
 * @param path a canonical path as rules are matched against it; it begins with a slash
 * @param query the query behind it, for rules that ask for a value there
 */
export function lookUp<T>(index: PatternIndex<T>, path: string, query = ''): readonly Match<T>[] {
  const same = plainAt(index, path, query);
  if (index.root === null) return same ?? NONE;
  const found: Entry<T>[] = [];
  descend(index.root, path, 0, found);
  // Plain addresses have no groups, so that their entries are matches already.
  if (found.length === 0) return same ?? NONE;
  return inOrder(found, same).map((entry) => matchOf(entry, path));
}

/** The rules that match a path and tie there: nothing but their names says which of them comes first. */
export function tiedAt<T>(index: PatternIndex<T>, path: string): T[][] {
  const found: Entry<T>[] = [];
  if (index.root !== null) descend(index.root, path, 0, found);
  const tied: Entry<T>[][] = [];
  for (const entry of inOrder(found, plainAt(index, path, ''))) {
    const before = tied.at(-1);
    if (before && compareSpecificity(before[0]!, entry) === 0) before.push(entry);
    else tied.push([entry]);
  }
  return tied.filter(({ length }) => length > 1).map((same) => same.map(({ rule }) => rule));
}

/** What was found in the tree and among plain addresses, the most specific first, each rule once. */
function inOrder<T>(
  found: Entry<T>[],
  plain: readonly Entry<T>[] | undefined,
): readonly Entry<T>[] {
  if (plain !== undefined) found.push(...plain);
  if (found.length === 1) return found;
  return found
    .sort(byPrecedence)
    .filter(
      ({ rule }, position, all) => all.findIndex((other) => other.rule === rule) === position,
    );
}

function plainAt<T>(
  { plain, fields }: PatternIndex<T>,
  path: string,
  query: string,
): readonly Entry<T>[] | undefined {
  const all = plain.get(path);
  const asked = query === '' || fields.size === 0 ? undefined : fields.get(path);
  if (!asked) return all;
  const values = new URLSearchParams(query);
  const found = [...asked].flatMap((field) => {
    const value = values.get(field);
    return value === null ? NONE : (plain.get(keyOf(path, field, value)) ?? NONE);
  });
  return [...found, ...(all ?? NONE)].sort(byPrecedence);
}

/** Names settle a tie, so that the order of the rules in the file never does. */
function byPrecedence<T>(a: Entry<T>, b: Entry<T>): number {
  return compareSpecificity(a, b) || (a.name < b.name ? -1 : a.name > b.name ? 1 : 0);
}

/** The rules of which two or more tie: nothing but their names says which comes first. */
export function ties<T>(rules: readonly Indexed<T>[]): T[][] {
  const bySource = new Map<string, Indexed<T>[]>();
  for (const rule of rules) {
    const key = [patternShapeKey(rule.pattern), rule.under, rule.rank, rule.conditional].join('|');
    push(bySource, key, rule);
  }
  return [...bySource.values()]
    .filter(({ length }) => length > 1)
    .map((same) => same.map(({ rule }) => rule));
}

function emptyNode<T>(): Node<T> {
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

function push<K, V>(map: Map<K, V[]>, key: K, value: V): void {
  const list = map.get(key);
  if (list) list.push(value);
  else map.set(key, [value]);
}

const literalShapes: Shape[] = [];

/** The shape of a plain address. Only its length tells one from another, so that they are shared. */
function literalShape(address: string): Shape {
  let length = address === '/' ? -1 : 0;
  for (let at = 0; at !== -1; at = address.indexOf('/', at + 1)) length++;
  return (literalShapes[length] ??= shapeOf(
    Array.from({ length }, () => ({ is: 'literal', text: '' })),
  ));
}

function plainAddress(shape: Shape): string | null {
  if (shape.tail) return null;
  let address = '';
  for (const segment of shape.segments) {
    if (segment.is !== 'literal') return null;
    address += `/${segment.text}`;
  }
  return address;
}

function slotsOf({ segments, tail }: Shape): [string, number][] | null {
  if (segments.some(({ is }) => is === 'mixed') || tail?.wildcard === null) return null;
  const slots: [string, number][] = [];
  segments.forEach((segment, position) => {
    if (segment.is === 'group') slots.push([segment.name, position]);
  });
  if (tail) slots.push([tail.wildcard, segments.length]);
  return slots;
}

function insert<T>(root: Node<T>, entry: Entry<T>): void {
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
function descend<T>(node: Node<T>, path: string, start: number, found: Entry<T>[]): void {
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

/** The longest beginning of `path`, cut at a slash, that a section's pattern matches. */
function sectionHead(pattern: Pattern, path: string): string | null {
  for (let end = path.length; end > 0; end = path.lastIndexOf('/', end - 1)) {
    if (regexpOf(pattern).matches(path.slice(0, end))) return path.slice(0, end);
  }
  return null;
}

function matchOf<T>(entry: Entry<T>, path: string): Match<T> {
  return { rule: entry.rule, groups: groupsOf(entry, path) };
}

function groupsOf<T>({ slots, pattern, shape, under }: Entry<T>, path: string): Groups {
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
  const head = under ? (sectionHead(pattern, path) ?? path) : path;
  const matcher = regexpOf(pattern).matcher(head);
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
