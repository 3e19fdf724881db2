import { TooManyCases } from '../model/too-many-cases.ts';

/** The set of nobody, and that of everybody. */
export const NONE = 0;
export const ALL = 1;

/** More distinct cases than any site that people write has; without a limit, a hostile one would fill the memory. */
const MOST_NODES = 200_000;
const MOST_RESULTS = 2_000_000;
/** Two nodes in one number. */
const SHIFT = 2 ** 24;

/** Whether variables are true or not, all of which must be so. */
export type Cube = readonly (readonly [variable: number, isTrue: boolean])[];

/**
 * Sets of visitors as reduced, ordered binary decision diagrams (Bryant 1986) over variables. Equal sets are the
 * same node, so that comparing two sets is comparing two numbers.
 */
export class VisitorSets {
  private readonly variables: number[] = [Infinity, Infinity];
  private readonly lows: number[] = [0, 1];
  private readonly highs: number[] = [0, 1];
  private readonly nodes: Map<number, number>[] = [];
  private readonly results = new Map<number, Map<number, number>>();
  private resultCount = 0;

  /** Those of whom a variable is true. */
  variable(index: number): number {
    return this.node(index, NONE, ALL);
  }

  /** Those who are in both sets. */
  and(a: number, b: number): number {
    return a < b ? this.ifThenElse(a, b, NONE) : this.ifThenElse(b, a, NONE);
  }

  /** Those who are in either set. */
  or(a: number, b: number): number {
    return a < b ? this.ifThenElse(a, ALL, b) : this.ifThenElse(b, ALL, a);
  }

  /** Those who are not in a set. */
  not(a: number): number {
    return this.ifThenElse(a, NONE, ALL);
  }

  /** Those who are in one set and not in another. */
  without(a: number, b: number): number {
    return this.ifThenElse(b, NONE, a);
  }

  /** Those who are in any of some sets. */
  anyOf(sets: readonly number[]): number {
    return sets.reduce((any, one) => this.or(any, one), NONE);
  }

  /** Those who are in all of some sets. */
  allOf(sets: readonly number[]): number {
    return sets.reduce((all, one) => this.and(all, one), ALL);
  }

  /** Those in one set who are in a second, and those not in it who are in a third. */
  ifThenElse(test: number, then: number, otherwise: number): number {
    if (test === ALL) return then;
    if (test === NONE) return otherwise;
    if (then === otherwise) return then;
    if (then === ALL && otherwise === NONE) return test;
    const key = then * SHIFT + otherwise;
    let known = this.results.get(test);
    const before = known?.get(key);
    if (before !== undefined) return before;
    const top = Math.min(this.variables[test]!, this.variables[then]!, this.variables[otherwise]!);
    const node = this.node(
      top,
      this.ifThenElse(this.low(test, top), this.low(then, top), this.low(otherwise, top)),
      this.ifThenElse(this.high(test, top), this.high(then, top), this.high(otherwise, top)),
    );
    if (++this.resultCount > MOST_RESULTS) throw new TooManyCases();
    if (!known) this.results.set(test, (known = new Map<number, number>()));
    known.set(key, node);
    return node;
  }

  /**
   * Those of whom some variables are as in one of some rows; built at once, because one row after the other would
   * make a multitude of sets on the way.
   *
   * @param variables in ascending order
   */
  anyRow(variables: readonly number[], rows: readonly (readonly boolean[])[], from = 0): number {
    if (rows.length === 0) return NONE;
    const variable = variables[from];
    if (variable === undefined) return ALL;
    return this.node(
      variable,
      this.anyRow(
        variables,
        rows.filter((each) => !each[from]),
        from + 1,
      ),
      this.anyRow(
        variables,
        rows.filter((each) => each[from]),
        from + 1,
      ),
    );
  }

  /** The set with variables put to values. */
  restrict(
    set: number,
    values: ReadonlyMap<number, boolean>,
    known = new Map<number, number>(),
  ): number {
    if (set <= ALL) return set;
    let restricted = known.get(set);
    if (restricted !== undefined) return restricted;
    const [variable, low, high] = [this.variables[set]!, this.lows[set]!, this.highs[set]!];
    const value = values.get(variable);
    restricted =
      value === undefined
        ? this.node(variable, this.restrict(low, values, known), this.restrict(high, values, known))
        : this.restrict(value ? high : low, values, known);
    known.set(set, restricted);
    return restricted;
  }

  /**
   * The case of a set that costs least; null for the empty set. Variables that are not in it may be either.
   *
   * @param costOf what it costs that a variable is true, or is not
   */
  cheapest(
    set: number,
    costOf: (variable: number, isTrue: boolean) => number,
  ): { readonly cost: number; readonly cube: Cube } | null {
    const known = new Map<number, { cost: number; cube: Cube } | null>([
      [NONE, null],
      [ALL, { cost: 0, cube: [] }],
    ]);
    const find = (node: number): { cost: number; cube: Cube } | null => {
      const before = known.get(node);
      if (before !== undefined) return before;
      const variable = this.variables[node]!;
      const ways = [this.lows[node]!, this.highs[node]!].flatMap((next, isTrue) => {
        const rest = find(next);
        if (rest === null) return [];
        const own = [variable, isTrue === 1] as const;
        return [{ cost: rest.cost + costOf(...own), cube: [own, ...rest.cube] }];
      });
      const best = ways.reduce((a, b) => (b.cost < a.cost ? b : a));
      known.set(node, best);
      return best;
    };
    return find(set);
  }

  /**
   * As few cases as cover one set and stay within a second: an irredundant sum of prime implicants (Minato 1993).
   *
   * @returns null where there would be more than `limit`
   */
  cover(set: number, within: number, limit: number): Cube[] | null {
    const known = new Map<number, Cover>();
    const { size } = this.coverOf(set, within, known);
    return size > limit ? null : this.cubesOf(set, within, known);
  }

  /** How many cases there are, and the set that they make; the cases themselves may be too many to write down. */
  private coverOf(set: number, within: number, known: Map<number, Cover>): Cover {
    if (set === NONE) return EMPTY;
    if (within === ALL) return WHOLE;
    const key = set * SHIFT + within;
    const before = known.get(key);
    if (before) return before;
    const top = Math.min(this.variables[set]!, this.variables[within]!);
    const [low, high] = [this.low(set, top), this.high(set, top)];
    const [withinLow, withinHigh] = [this.low(within, top), this.high(within, top)];
    const parts: Cover['parts'] = [
      [this.without(low, withinHigh), withinLow],
      [this.without(high, withinLow), withinHigh],
    ];
    const [ofLow, ofHigh] = parts.map((part) => this.coverOf(...part, known)) as [Cover, Cover];
    const rest = this.or(this.without(low, ofLow.covered), this.without(high, ofHigh.covered));
    const shared = [rest, this.and(withinLow, withinHigh)] as const;
    const ofBoth = this.coverOf(...shared, known);
    const cover: Cover = {
      size: ofLow.size + ofHigh.size + ofBoth.size,
      covered: this.ifThenElse(
        this.variable(top),
        this.or(ofHigh.covered, ofBoth.covered),
        this.or(ofLow.covered, ofBoth.covered),
      ),
      variable: top,
      parts: [...parts, shared],
    };
    known.set(key, cover);
    return cover;
  }

  private cubesOf(set: number, within: number, known: Map<number, Cover>): Cube[] {
    if (set === NONE) return [];
    if (within === ALL) return [[]];
    const { variable, parts } = known.get(set * SHIFT + within)!;
    const signs = [[[variable, false]], [[variable, true]], []] as const;
    return parts.flatMap((part, i) =>
      this.cubesOf(...part, known).map((cube): Cube => [...signs[i]!, ...cube]),
    );
  }

  private low(node: number, top: number): number {
    return this.variables[node] === top ? this.lows[node]! : node;
  }

  private high(node: number, top: number): number {
    return this.variables[node] === top ? this.highs[node]! : node;
  }

  private node(variable: number, low: number, high: number): number {
    if (low === high) return low;
    const known = (this.nodes[variable] ??= new Map<number, number>());
    const key = low * SHIFT + high;
    let node = known.get(key);
    if (node === undefined) {
      node = this.variables.length;
      if (node > MOST_NODES) throw new TooManyCases();
      this.variables.push(variable);
      this.lows.push(low);
      this.highs.push(high);
      known.set(key, node);
    }
    return node;
  }
}

/** Cases that cover a set: those where a variable is false, those where it is true, and those of either. */
interface Cover {
  readonly size: number;
  readonly covered: number;
  readonly variable: number;
  readonly parts: readonly (readonly [set: number, within: number])[];
}

const EMPTY: Cover = { size: 0, covered: NONE, variable: -1, parts: [] };
const WHOLE: Cover = { size: 1, covered: ALL, variable: -1, parts: [] };
