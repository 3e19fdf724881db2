import { evaluate, type Names, type Situation } from '../condition/evaluate.ts';
import { printCondition } from '../condition/print.ts';
import { countedIn, isSameProduct } from '../condition/product-terms.ts';
import { readsOf } from '../condition/reads.ts';
import { readInstant } from '../time/instant.ts';
import { valuesIn, type Condition, type Operator, type Value } from '../model/condition.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import { GUEST, type Visitor } from '../model/visitor.ts';
import { situationOf, type Compared, type Comparison, type Piece } from './attribute-values.ts';
import {
  isOfVisitor,
  isOpen,
  isPresent,
  keyOf,
  resolve,
  resolveWhole,
  TURNED,
  type KnownAddress,
} from './open-values.ts';
import { purchaseTies } from './purchase-ties.ts';
import { tiesOf } from './ties.ts';
import { ALL, NONE, VisitorSets } from './visitor-sets.ts';

type Compare = Extract<Condition, { is: 'compare' }>;

/** A statement about a visitor that is true or false by itself. */
interface Atom {
  readonly variable: number;
  /** What says that it is true. */
  readonly condition: Condition;
  /** Those of whom alone it can be true. */
  readonly among: number;
  /** Whether it is true of a visitor. */
  isTrue(situation: Situation): boolean;
}

const GUESTS: Condition = { is: 'guest' };
const NO_PIECES: ReadonlyMap<string, Piece> = new Map();

/**
 * What sets of visitors are made of: statements about a visitor, each a variable, with what is possible of them
 * together. A guest has no role, group, purchase, id or attribute; whoever bought something has ever bought it; a
 * person has one id; comparisons of one attribute go together where some values meet them. Two values that differ
 * from one visitor to the next are taken for a statement by themselves where they are compared with each other.
 */
export class Atoms {
  readonly sets = new VisitorSets();
  readonly guests: number;
  readonly signedIn: number;
  private readonly atoms = new Map<string, Atom>();
  private readonly byVariable: Atom[] = [];
  private readonly comparisons = new Map<Compared, Comparison[]>();
  private readonly ids = new Set<string>();
  private readonly known = new WeakMap<Condition, number>();
  private all = { size: 0, possible: ALL };

  /**
   * @param pieces by a value that stands for them: the pieces of an address that stands for many
   */
  constructor(
    private readonly names: Names,
    private readonly pieces: ReadonlyMap<string, Piece> = NO_PIECES,
  ) {
    this.guests = this.atom(GUESTS, ALL);
    this.signedIn = this.sets.not(this.guests);
  }

  /**
   * Those for whom a condition holds.
   *
   * @param address what is known of the address; null where it may be any
   * @param names of the state of the site that the condition is of, where that is another one
   */
  setOf(condition: Condition, address: KnownAddress | null, names = this.names): number {
    const isFixed = !readsOf(condition, names).address;
    const before = isFixed ? this.known.get(condition) : undefined;
    if (before !== undefined) return before;
    const set = this.find(condition, address, names);
    if (isFixed) this.known.set(condition, set);
    return set;
  }

  /** Those who would be in a set had they bought some products, and signed in for it. */
  buyersIn(set: number, products: readonly string[]): number {
    const forGuests = new Map<number, boolean>([[0, false]]);
    const forOthers = new Map<number, boolean>();
    for (const { variable, condition, among } of this.byVariable) {
      const isBought =
        condition.is === 'bought' &&
        products.some((one) => countedIn(condition.product, this.names.products).includes(one));
      const isTrue = isBought && (condition.state === 'in-force' || condition.state === 'ever');
      if (among !== ALL) forGuests.set(variable, isTrue);
      if (isBought) forOthers.set(variable, isTrue);
    }
    const { sets, guests } = this;
    return sets.ifThenElse(guests, sets.restrict(set, forGuests), sets.restrict(set, forOthers));
  }

  /**
   * What is left of a set where the visitor is known: what it asks of the pieces of an address, or everyone or nobody.
   *
   * @param at the moment, in milliseconds since 1970
   */
  knowing(set: number, visitor: Visitor, at: number): number {
    const situation = { ...situationOf(visitor), at };
    const known = this.byVariable
      .filter(({ condition }) => !readsOf(condition, this.names).address)
      .map(({ variable, isTrue }) => [variable, isTrue(situation)] as const);
    return this.sets.restrict(set, new Map(known));
  }

  /** The visitors that there can be, by all that was asked about so far. */
  possible(): number {
    if (this.all.size === this.atoms.size) return this.all.possible;
    let possible = this.ties();
    // Ties may bring in what nobody asked about, such as whether an attribute is there.
    while (this.all.size !== this.atoms.size) {
      this.all = { size: this.atoms.size, possible };
      possible = this.ties();
    }
    return this.all.possible;
  }

  /** Whether there can be anyone in a set. */
  isAnyone(set: number): boolean {
    return set !== NONE && this.sets.and(set, this.possible()) !== NONE;
  }

  /** The possible visitors, told in one way only: a guest, for example, is written with no role. */
  meaningful(): number {
    const { sets } = this;
    const possible = this.possible();
    return this.byVariable.reduce(
      (all, { variable, among }) =>
        sets.and(all, sets.or(sets.not(sets.variable(variable)), among)),
      possible,
    );
  }

  /** Those of whom at most so many statements are true, besides being signed in. */
  withAtMost(traits: number): number {
    const { sets } = this;
    // How many are true of the statements that come later, from the last one on.
    let counts: number[] = Array.from({ length: traits + 1 }, () => ALL);
    for (const { variable, condition } of [...this.byVariable].reverse()) {
      if (condition.is === 'guest') continue;
      const isTrue = sets.variable(variable);
      counts = counts.map((fewer, i) =>
        sets.ifThenElse(isTrue, i === 0 ? NONE : counts[i - 1]!, fewer),
      );
    }
    return counts.at(-1)!;
  }

  /** Those of whom none of some statements is true, of those that were asked about. */
  without(isOne: (condition: Condition) => boolean): number {
    const { sets } = this;
    const some = this.byVariable.filter(({ condition }) => isOne(condition));
    return sets.not(sets.anyOf(some.map(({ variable }) => sets.variable(variable))));
  }

  /** All comparisons with constants that were asked about, by what is compared. */
  get compared(): ReadonlyMap<Compared, readonly Comparison[]> {
    return this.comparisons;
  }

  /** What says that a variable is true. */
  conditionOf(variable: number): Condition {
    return this.byVariable[variable]!.condition;
  }

  private find(condition: Condition, address: KnownAddress | null, names: Names): number {
    const { sets } = this;
    switch (condition.is) {
      case 'anyone':
        return ALL;
      case 'nobody':
        return NONE;
      case 'guest':
        return this.guests;
      case 'signed-in':
        return this.signedIn;
      case 'role':
      case 'group':
        return this.atom(condition, this.signedIn);
      case 'person':
        this.ids.add(condition.name);
        return this.atom(condition, this.signedIn);
      case 'bought': {
        // Who has it in force in one state is another set of visitors than in the other, which no variable tells apart.
        if (!isSameProduct(condition.product, names.products, this.names.products))
          throw new TooManyCases();
        const ever = this.atom({ ...condition, state: 'ever' }, this.signedIn);
        if (condition.state === 'ever') return ever;
        const inForce = this.atom({ ...condition, state: 'in-force' }, ever);
        return condition.state === 'in-force'
          ? inForce
          : this.atom(condition, sets.without(ever, inForce));
      }
      case 'audience': {
        const audience = names.audiences.get(condition.name);
        return audience === undefined ? NONE : this.setOf(audience, address, names);
      }
      case 'not':
        return sets.not(this.setOf(condition.of, address, names));
      case 'and':
        return sets.allOf(condition.of.map((one) => this.setOf(one, address, names)));
      case 'or':
        return sets.anyOf(condition.of.map((one) => this.setOf(one, address, names)));
      case 'compare':
        return this.compare(condition, address);
    }
  }

  /** Those of whom a condition without conditions in it is true. */
  private atom(condition: Condition, among: number): number {
    return this.statement(printCondition(condition), condition, among, (situation) =>
      evaluate(condition, situation, this.names),
    );
  }

  private statement(
    text: string,
    condition: Condition,
    among: number,
    isTrue: Atom['isTrue'],
  ): number {
    let atom = this.atoms.get(text);
    if (!atom) {
      atom = { variable: this.byVariable.length, condition, among, isTrue };
      this.atoms.set(text, atom);
      this.byVariable.push(atom);
    }
    return this.sets.and(this.sets.variable(atom.variable), atom.among);
  }

  private compare(condition: Compare, address: KnownAddress | null): number {
    let left = resolve(condition.left, address, this.pieces);
    let right = resolve(condition.right, address, this.pieces);
    if (left === null || right === null) return NONE;
    // Beside what differs from one visitor to the next, a part of a piece is no value of its own.
    if (isOpen(right)) left = resolveWhole(condition.left, address, this.pieces) ?? left;
    else if (isOpen(left)) right = resolveWhole(condition.right, address, this.pieces) ?? right;
    const comparison: Compare = { ...condition, left, right };
    const [isLeftOpen, isRightOpen] = [left, right].map(isOpen);
    if (!isLeftOpen && !isRightOpen)
      return evaluate(comparison, situationOf(GUEST), this.names) ? ALL : NONE;
    if (isLeftOpen && isRightOpen)
      return this.atom(comparison, valuesIn(comparison).some(isOfVisitor) ? this.signedIn : ALL);
    const [of, constant, operator] = isLeftOpen
      ? [left, right, condition.operator]
      : [right, left, TURNED[condition.operator]];
    if (operator === 'in' && constant.is === 'list')
      return this.sets.anyOf(constant.of.map((one) => this.meets(of, '=', one)));
    if (operator !== '!=') return this.meets(of, operator, constant);
    const equal = this.meets(of, '=', constant);
    return this.sets.without(this.having(of, constant), equal);
  }

  /** Those who have what is compared. */
  private having(of: Value, constant: Value): number {
    const key = keyOf(of);
    if (this.pieceOf(key)) return ALL;
    const compared = (operator: Operator): Condition => ({
      is: 'compare',
      left: of,
      operator,
      right: constant,
    });
    const has: Condition = { is: 'or', of: [compared('='), compared('!=')] };
    return this.statement(`has ${key}`, has, isOfVisitor(of) ? this.signedIn : ALL, ({ visitor }) =>
      isPresent(key, visitor),
    );
  }

  private meets(of: Value, operator: Operator, constant: Value): number {
    const key = keyOf(of);
    // To have an id is to be that person; only ids that are dates are equal to others, too.
    if (key === 'visitor.id' && operator === '=' && constant.is === 'string')
      if (readInstant(constant.value, this.names.timeZone) === null)
        return this.setOf({ is: 'person', name: constant.value }, null);
    const condition: Compare = { is: 'compare', left: of, operator, right: constant };
    const text = printCondition(condition);
    const all = this.comparisons.get(key) ?? [];
    this.comparisons.set(key, all);
    if (!all.some((one) => one.text === text)) all.push({ text, condition, constant });
    return this.atom(condition, this.having(of, constant));
  }

  private pieceOf(key: Compared): Piece | undefined {
    return [...this.pieces.values()].find(({ name }) => key === `path.${name}`);
  }

  /** What is possible together, of all that was asked about. */
  private ties(): number {
    const variableOf = (text: string): number => this.atoms.get(text)!.variable;
    const people = [...this.ids].map((name) => {
      const condition: Condition = { is: 'person', name };
      return {
        name,
        set: this.atom(condition, this.signedIn),
        variable: variableOf(printCondition(condition)),
      };
    });
    const compared = [...this.comparisons].map(([key, comparisons]) => {
      const [first] = comparisons;
      return {
        key,
        having: this.having(first!.condition.left, first!.constant),
        piece: this.pieceOf(key),
        comparisons: comparisons.map((one) => ({
          ...one,
          set: this.meets(one.condition.left, one.condition.operator, one.constant),
          variable: variableOf(one.text),
        })),
      };
    });
    const withId = this.atoms.get('has visitor.id');
    // Everyone who is signed in has an id.
    const identified = withId
      ? this.sets.or(this.guests, this.sets.variable(withId.variable))
      : ALL;
    return this.sets.allOf([
      identified,
      tiesOf(this.sets, this.names, people, compared),
      purchaseTies(
        this.sets,
        this.names.products,
        this.byVariable.flatMap(({ condition }) => (condition.is === 'bought' ? [condition] : [])),
        (condition) => this.setOf(condition, null),
      ),
    ]);
  }
}
