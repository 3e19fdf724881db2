/** The set of nobody, and that of everybody. */
export const NONE = 0;
export const ALL = 1;

/**
 * Sets of visitors as reduced, ordered binary decision diagrams (Bryant 1986) over variables. Equal sets are the
 * same node, so that comparing two sets is comparing two numbers.
 */
export class VisitorSets {
  private readonly variables: number[] = [Infinity, Infinity];
  private readonly lows: number[] = [0, 1];
  private readonly highs: number[] = [0, 1];
  private readonly nodes = new Map<string, number>();
  private readonly memo = new Map<string, number>();

  /** Those of whom a variable is true. */
  variable(index: number): number {
    return this.node(index, NONE, ALL);
  }

  /** Those who are in both sets. */
  and(a: number, b: number): number {
    return this.ifThenElse(a, b, NONE);
  }

  /** Those who are in either set. */
  or(a: number, b: number): number {
    return this.ifThenElse(a, ALL, b);
  }

  /** Those who are not in a set. */
  not(a: number): number {
    return this.ifThenElse(a, NONE, ALL);
  }

  /** Those in one set who are in a second, and those not in it who are in a third. */
  ifThenElse(test: number, then: number, otherwise: number): number {
    if (test === ALL) return then;
    if (test === NONE) return otherwise;
    if (then === otherwise) return then;
    if (then === ALL && otherwise === NONE) return test;
    const key = `${test} ${then} ${otherwise}`;
    const known = this.memo.get(key);
    if (known !== undefined) return known;
    const top = Math.min(this.variables[test]!, this.variables[then]!, this.variables[otherwise]!);
    const node = this.node(
      top,
      this.ifThenElse(this.low(test, top), this.low(then, top), this.low(otherwise, top)),
      this.ifThenElse(this.high(test, top), this.high(then, top), this.high(otherwise, top)),
    );
    this.memo.set(key, node);
    return node;
  }

  /** The set with a variable put to a value. */
  restrict(set: number, variable: number, value: boolean): number {
    const top = this.variables[set]!;
    if (top > variable) return set;
    if (top === variable) return value ? this.highs[set]! : this.lows[set]!;
    return this.node(
      top,
      this.restrict(this.lows[set]!, variable, value),
      this.restrict(this.highs[set]!, variable, value),
    );
  }

  /** Whether a set has the visitor of whom `isTrue` tells the variables. */
  has(set: number, isTrue: (variable: number) => boolean): boolean {
    let node = set;
    while (node > ALL) node = isTrue(this.variables[node]!) ? this.highs[node]! : this.lows[node]!;
    return node === ALL;
  }

  private low(node: number, top: number): number {
    return this.variables[node] === top ? this.lows[node]! : node;
  }

  private high(node: number, top: number): number {
    return this.variables[node] === top ? this.highs[node]! : node;
  }

  private node(variable: number, low: number, high: number): number {
    if (low === high) return low;
    const key = `${variable} ${low} ${high}`;
    let node = this.nodes.get(key);
    if (node === undefined) {
      node = this.variables.length;
      this.variables.push(variable);
      this.lows.push(low);
      this.highs.push(high);
      this.nodes.set(key, node);
    }
    return node;
  }
}
