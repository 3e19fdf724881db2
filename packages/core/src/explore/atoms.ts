import { evaluate, type Names, type Situation } from '../condition/evaluate.ts';
import { printCondition } from '../condition/print.ts';
import type { Condition, Operator, Value } from '../model/condition.ts';
import type { Visitor } from '../model/visitor.ts';
import {
  answersOfValues,
  isSingleText,
  situationOf,
  visitorWith,
  type Compared,
  type Comparison,
} from './attribute-values.ts';
import { ALL, NONE, VisitorSets } from './visitor-sets.ts';

type Compare = Extract<Condition, { is: 'compare' }>;

/** A statement about a visitor that is true or false by itself. */
interface Atom {
  readonly variable: number;
  /** Whether it is true of a visitor. */
  isTrue(situation: Situation): boolean;
}

/** The same comparison with its sides changed. */
const TURNED: Readonly<Record<Operator, Operator>> = {
  '=': '=',
  '!=': '!=',
  '<': '>',
  '<=': '>=',
  '>': '<',
  '>=': '<=',
  in: '=',
};

/**
 * What sets of visitors are made of: statements about a visitor, each a variable, with what is possible of them
 * together. A guest has no role, group, purchase, id or attribute; whoever bought something has ever bought it; a
 * person has one id; comparisons of one attribute go together where some values meet them. Two attributes
 * that are compared with each other are taken for a statement by itself.
 */
export class Atoms {
  readonly sets = new VisitorSets();
  private readonly atoms = new Map<string, Atom>();
  private readonly comparisons = new Map<Compared, Comparison[]>();
  private readonly ids = new Set<string>();
  private known = { size: 0, possible: ALL };

  constructor(private readonly names: Names) {
    this.atom({ is: 'guest' });
  }

  /**
   * Those for whom a condition holds.
   *
   * @param situation the pieces of the address and its query; its visitor is not looked at
   */
  setOf(condition: Condition, situation: Situation): number {
    const { sets } = this;
    switch (condition.is) {
      case 'anyone':
        return ALL;
      case 'nobody':
        return NONE;
      case 'guest':
        return this.guests();
      case 'signed-in':
        return sets.not(this.guests());
      case 'role':
      case 'group':
        return this.signedIn(this.atom(condition));
      case 'person':
        this.ids.add(condition.name);
        return this.signedIn(this.atom(condition));
      case 'bought': {
        const ever = this.signedIn(this.atom({ ...condition, ever: true }));
        return condition.ever ? ever : sets.and(ever, this.atom(condition));
      }
      case 'audience': {
        const audience = this.names.audiences.get(condition.name);
        return audience === undefined ? NONE : this.setOf(audience, situation);
      }
      case 'not':
        return sets.not(this.setOf(condition.of, situation));
      case 'and':
        return condition.of.reduce((all, one) => sets.and(all, this.setOf(one, situation)), ALL);
      case 'or':
        return condition.of.reduce((any, one) => sets.or(any, this.setOf(one, situation)), NONE);
      case 'compare':
        return this.compare(condition, situation);
    }
  }

  /** Those who would be in a set had they bought some products, and signed in for it. */
  buyersIn(set: number, products: readonly string[]): number {
    const { sets } = this;
    const bought = new Set(
      products.flatMap((product) =>
        [true, false].map((ever) => printCondition({ is: 'bought', product, ever })),
      ),
    );
    let [guests, others] = [set, set];
    for (const [text, { variable }] of this.atoms) {
      guests = sets.restrict(guests, variable, bought.has(text));
      if (bought.has(text)) others = sets.restrict(others, variable, true);
    }
    return sets.ifThenElse(this.guests(), guests, others);
  }

  /**
   * Whether a visitor is in a set.
   *
   * @param at the moment, in milliseconds since 1970
   */
  has(set: number, visitor: Visitor, at: number): boolean {
    const situation = { ...situationOf(visitor), at };
    const atoms = [...this.atoms.values()];
    return this.sets.has(set, (variable) => atoms[variable]!.isTrue(situation));
  }

  /** The visitors that there can be, by all that was asked about so far. */
  possible(): number {
    if (this.known.size === this.atoms.size) return this.known.possible;
    let possible = this.ties();
    // Ties may bring in what nobody asked about, such as whether an attribute is there.
    while (this.known.size !== this.atoms.size) {
      this.known = { size: this.atoms.size, possible };
      possible = this.ties();
    }
    return this.known.possible;
  }

  private guests(): number {
    return this.atom({ is: 'guest' });
  }

  private signedIn(set: number): number {
    return this.sets.and(set, this.sets.not(this.guests()));
  }

  /** Those of whom a condition without conditions in it is true; a guest may be among them until that is excluded. */
  private atom(condition: Condition): number {
    return this.variable(printCondition(condition), (situation) =>
      evaluate(condition, situation, this.names),
    );
  }

  private variable(text: string, isTrue: Atom['isTrue']): number {
    let atom = this.atoms.get(text);
    if (!atom) this.atoms.set(text, (atom = { variable: this.atoms.size, isTrue }));
    return this.sets.variable(atom.variable);
  }

  private compare(condition: Compare, situation: Situation): number {
    const left = resolved(condition.left, situation);
    const right = resolved(condition.right, situation);
    if (left === null || right === null) return NONE;
    const comparison: Compare = { ...condition, left, right };
    const [isLeftOpen, isRightOpen] = [left, right].map(isOpen);
    if (!isLeftOpen && !isRightOpen)
      return evaluate(comparison, situation, this.names) ? ALL : NONE;
    if (isLeftOpen && isRightOpen) return this.atom(comparison);
    const [of, constant, operator] = isLeftOpen
      ? [left, right, condition.operator]
      : [right, left, TURNED[condition.operator]];
    if (operator === 'in' && constant.is === 'list')
      return constant.of.reduce((any, one) => this.sets.or(any, this.meets(of, '=', one)), NONE);
    if (operator !== '!=') return this.meets(of, operator, constant);
    return this.sets.and(this.having(of), this.sets.not(this.meets(of, '=', constant)));
  }

  /** Those who have what is compared. */
  private having(of: Value): number {
    const key = keyOf(of);
    const present = this.variable(`has ${key}`, ({ visitor }) => isPresent(key, visitor));
    return key === 'language' ? present : this.signedIn(present);
  }

  private meets(of: Value, operator: Operator, constant: Value): number {
    const key = keyOf(of);
    const condition: Compare = { is: 'compare', left: of, operator, right: constant };
    const text = printCondition(condition);
    const all = this.comparisons.get(key) ?? [];
    this.comparisons.set(key, all);
    if (!all.some((one) => one.text === text)) all.push({ text, condition, constant });
    return this.sets.and(this.atom(condition), this.having(of));
  }

  /** What is possible together. */
  private ties(): number {
    const { sets } = this;
    const ids = [...this.ids].map((name) => this.atom({ is: 'person', name }));
    const clashes = ids.flatMap((one, i) => ids.slice(i + 1).map((other) => sets.and(one, other)));
    const free = sets.not(clashes.reduce((any, one) => sets.or(any, one), NONE));
    return [...this.comparisons].reduce(
      (all, [key, comparisons]) => sets.and(all, this.tieValues(key, comparisons)),
      sets.and(free, this.tieIds()),
    );
  }

  /** Values meet what they can meet: a single one exactly, several whatever one of them does. */
  private tieValues(key: Compared, comparisons: readonly Comparison[]): number {
    const { sets } = this;
    const atoms = comparisons.map(({ condition }) => this.atom(condition));
    const answers = answersOfValues(key, comparisons, this.names);
    const any = (nodes: readonly number[]): number =>
      nodes.reduce((some, one) => sets.or(some, one), NONE);
    const all = (nodes: readonly number[]): number =>
      nodes.reduce((every, one) => sets.and(every, one), ALL);
    const meets = (each: readonly boolean[]): number => all(atoms.filter((_, i) => each[i]));
    const possible = isSingleText(key)
      ? any(answers.map((each) => all(atoms.map((one, i) => (each[i] ? one : sets.not(one))))))
      : all(
          atoms.map((one, i) =>
            sets.or(sets.not(one), any(answers.filter((each) => each[i]).map(meets))),
          ),
        );
    return sets.ifThenElse(this.having(comparisons[0]!.condition.left), possible, ALL);
  }

  /** Whoever is a person by name has that id, and everyone who is signed in has one. */
  private tieIds(): number {
    const { sets } = this;
    const comparisons = this.comparisons.get('visitor.id') ?? [];
    const [first] = comparisons;
    if (!first) return ALL;
    let tied = sets.or(this.guests(), this.having(first.condition.left));
    const imply = (one: number, other: number): void => {
      tied = sets.and(tied, sets.or(sets.not(one), other));
    };
    for (const name of this.ids) {
      const situation = situationOf(visitorWith('visitor.id', name));
      for (const { condition } of comparisons) {
        const meets = this.atom(condition);
        const isMet = evaluate(condition, situation, this.names);
        imply(this.atom({ is: 'person', name }), isMet ? meets : sets.not(meets));
      }
    }
    for (const { condition, constant } of comparisons)
      if (condition.operator === '=' && constant.is === 'string')
        imply(
          this.signedIn(this.atom(condition)),
          this.atom({ is: 'person', name: constant.value }),
        );
    return tied;
  }
}

/** A value of the visitor, which differs from one to the next. */
const isOpen = (value: Value): boolean =>
  value.is === 'visitor' ||
  value.is === 'language' ||
  (value.is === 'list' && value.of.some(isOpen));

const keyOf = (value: Value): Compared =>
  value.is === 'visitor' ? `visitor.${value.name}` : 'language';

/** A value with what is known of the address put in; null where that is absent. */
function resolved(value: Value, situation: Situation): Value | null {
  switch (value.is) {
    case 'list':
      return { is: 'list', of: value.of.flatMap((one) => resolved(one, situation) ?? []) };
    case 'path':
      return asText(situation.path[value.name]);
    case 'query':
      return asText(new URLSearchParams(situation.query).get(value.name));
    default:
      return value;
  }
}

const asText = (value: string | null | undefined): Value | null =>
  value === null || value === undefined ? null : { is: 'string', value };

function isPresent(key: Compared, { guest, id, language, attributes }: Visitor): boolean {
  if (key === 'language') return language !== null;
  if (key === 'visitor.id') return id !== null;
  const name = key.slice('visitor.'.length);
  const value = !guest && Object.hasOwn(attributes, name) ? attributes[name] : undefined;
  return value !== undefined && !(Array.isArray(value) && value.length === 0);
}
