import { literalOf, type Pattern } from '../model/pattern.ts';
import type { Groups } from './fill.ts';
import { groupsIn, NO_GROUPS } from './matched-groups.ts';
import {
  descend,
  emptyNode,
  insert,
  push,
  type Entry,
  type Match,
  type Node,
} from './pattern-tree.ts';
import { shapeOf, shapesOf, type Shape } from './shape.ts';
import { compareSpecificity } from './specificity.ts';

export type { Match } from './pattern-tree.ts';

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

/** Builds the index. Costs the number of rules, once for each state of a site. */
export const buildIndex = <T>(rules: Iterable<Indexed<T>>): PatternIndex<T> =>
  inOneGo(buildIndexInSteps(rules));

/** A computation that can be interrupted: each step takes about a millisecond. */
export type Steps<T> = Generator<undefined, T>;

/** The result of steps that nothing needs to interrupt. */
export function inOneGo<T>(steps: Steps<T>): T {
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
  }
}

/** Rules that one step indexes. */
const RULES_A_STEP = 128;

/** Builds the index in steps. */
export function* buildIndexInSteps<T>(rules: Iterable<Indexed<T>>): Steps<PatternIndex<T>> {
  let count = 0;
  const plain = new Map<string, Entry<T>[]>();
  const fields = new Map<string, Set<string>>();
  let root: Node<T> | null = null;
  for (const indexed of rules) {
    if (++count % RULES_A_STEP === 0) yield;
    const {
      rule,
      pattern,
      under,
      rank,
      fields: queryFields,
      values,
      conditional,
      only,
      name,
    } = indexed;
    const literal = under ? null : literalOf(pattern);
    const shapes = literal?.startsWith('/')
      ? [literalShape(literal)]
      : shapesOf(pattern.parts).map((shape) => weighted(shape, under));
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
        fields: queryFields,
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
  return inOrder(found, same).map((entry) => new Matched(entry, path));
}

/** A rule that matches. What its groups took is found out for the rule that is applied alone. */
class Matched<T> implements Match<T> {
  private taken: Groups | null = null;

  constructor(
    private readonly entry: Entry<T>,
    private readonly path: string,
  ) {}

  get rule(): T {
    return this.entry.rule;
  }

  get groups(): Groups {
    return (this.taken ??= groupsIn(this.entry, this.path));
  }
}

/** The rules alone: what the groups of their patterns took of the path may cost more than all else. */
export function rulesAt<T>(index: PatternIndex<T>, path: string, query = ''): T[] {
  const found: Entry<T>[] = [];
  if (index.root !== null) descend(index.root, path, 0, found);
  return inOrder(found, plainAt(index, path, query)).map(({ rule }) => rule);
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
  const names = query === '' || fields.size === 0 ? undefined : fields.get(path);
  if (!names) return all;
  const values = new URLSearchParams(query);
  const found = [...names].flatMap((field) => {
    const value = values.get(field);
    return value === null ? NONE : (plain.get(keyOf(path, field, value)) ?? NONE);
  });
  return [...found, ...(all ?? NONE)].sort(byPrecedence);
}

/** Names settle a tie, so that the order of the rules in the file never does. */
function byPrecedence<T>(a: Entry<T>, b: Entry<T>): number {
  return compareSpecificity(a, b) || (a.name < b.name ? -1 : a.name > b.name ? 1 : 0);
}

/** The home page is as plain as other addresses: it comes before `/*`. A section of the whole site comes last. */
export const weighted = (shape: Shape, under: boolean): Shape =>
  shape.weights.length === 0 && !under ? { ...shape, weights: [0] } : shape;

const literalShapes: Shape[] = [];

/** The shape of a plain address. Only its length tells one from another, so that they are shared. */
function literalShape(address: string): Shape {
  let length = 0;
  for (let at = 0; at !== -1; at = address.indexOf('/', at + 1)) length++;
  return (literalShapes[length] ??= shapeOf(
    Array.from({ length }, () => ({ is: 'literal', text: '' })),
  ));
}

/** The one address of a shape; null where it has several. */
export function plainAddress(shape: Shape): string | null {
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
