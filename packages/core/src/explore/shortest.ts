import { printCondition, printValue } from '../condition/print.ts';
import type { Clause, ReadableCondition, Term } from '../model/clause.ts';
import type { Condition } from '../model/condition.ts';
import type { Atoms } from './atoms.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import { NONE, type Cube } from './visitor-sets.ts';

/** More alternatives than anyone would read, and than anyone would let a machine read. */
const MOST_READ = 100;
const MOST_WRITTEN = 5_000;

/**
 * Writes a set of visitors as a condition in its shortest form: prime implicants, those with the same exceptions
 * taken together.
 *
 * @param free those of whom it does not matter whether they are in the set
 * @throws TooManyCases where there are more alternatives than could be written down
 */
export function shortest(atoms: Atoms, set: number, free: number = NONE): ReadableCondition {
  const { sets } = atoms;
  const meaningful = atoms.meaningful();
  const open = sets.or(free, sets.not(meaningful));
  const within = sets.or(set, open);
  const inside = sets.cover(sets.without(set, open), within, MOST_WRITTEN);
  const outside = sets.cover(sets.not(within), sets.or(sets.not(set), open), MOST_WRITTEN);
  if (inside === null && outside === null) throw new TooManyCases();
  const own = clausesOf(atoms, inside);
  const except = clausesOf(atoms, outside);
  const isExcept = except !== null && except.length > 0 && except.every(isPlain);
  if (own && !(isExcept && sizeOf(except) < sizeOf(own)))
    return { condition: conditionOf(own), clauses: own, isExcept: false };
  if (isExcept)
    return { condition: join('and', except.map(negated)), clauses: except, isExcept: true };
  // Nobody reads either of them; the shorter one is written.
  const isShorter = outside !== null && outside.length <= (inside?.length ?? Infinity);
  const condition = isShorter
    ? join(
        'and',
        outside.map((cube) => negated(clauseOf(atoms, cube))),
      )
    : conditionOf(inside!.map((cube) => clauseOf(atoms, cube)));
  return { condition, clauses: null, isExcept: false };
}

/** Something to be an exception: an exception from an exception would be hard to read. */
const isPlain = (clause: Clause): boolean => clause.every(({ holds }) => holds);

const sizeOf = (clauses: readonly Clause[]): number =>
  clauses.reduce((sum, clause) => sum + 1 + clause.length, 0);

/** Cases as clauses to read; null where there are too many. */
function clausesOf(atoms: Atoms, cubes: readonly Cube[] | null): Clause[] | null {
  if (cubes === null) return null;
  const alike = new Map<string, Clause>();
  const others: Clause[] = [];
  // Hundreds of people by name are one clause; what else could be merged is few.
  for (const clause of cubes.map((cube) => clauseOf(atoms, cube))) {
    const [only] = clause;
    if (!only?.holds || clause.length > 1) others.push(clause);
    else {
      const kind = kindOf(only.anyOf[0]!);
      const before = alike.get(kind)?.[0]?.anyOf ?? [];
      alike.set(kind, [{ holds: true, anyOf: [...before, ...only.anyOf] }]);
    }
  }
  const all = [...alike.values(), ...others];
  return all.length > MOST_READ ? null : merge(all).sort((a, b) => rankOf(a) - rankOf(b));
}

/** Plain statements come first, as people say them, and “everyone, except …” last. */
function rankOf(clause: Clause): number {
  if (!clause.some(({ holds }) => holds)) return 3;
  if (clause.length > 1) return 2;
  return clause[0]!.anyOf[0]!.is === 'guest' ? 1 : 0;
}

/** The terms of a case; what does not hold is one exception for each kind of statement. */
function clauseOf(atoms: Atoms, cube: Cube): Clause {
  const terms: Term[] = [];
  const exceptions = new Map<string, Condition[]>();
  const statements = cube.map(
    ([variable, isTrue]) => [atoms.conditionOf(variable), isTrue] as const,
  );
  for (const [condition, isTrue] of withUnequal(statements)) {
    if (condition.is === 'guest')
      terms.push({ holds: true, anyOf: [isTrue ? condition : { is: 'signed-in' }] });
    else if (isTrue) terms.push({ holds: true, anyOf: [condition] });
    else {
      const kind = kindOf(condition);
      exceptions.set(kind, [...(exceptions.get(kind) ?? []), condition]);
    }
  }
  return [...terms, ...[...exceptions.values()].map((anyOf): Term => ({ holds: false, anyOf }))];
}

type Statement = readonly [Condition, isTrue: boolean];

/** To have a value that is not equal to some is to be unequal: `visitor.town != "Ayr"`. */
function withUnequal(statements: readonly Statement[]): readonly Statement[] {
  const has = statements.find(([{ is }, isTrue]) => is === 'or' && isTrue)?.[0];
  const of = has?.is === 'or' && has.of[0]?.is === 'compare' ? printValue(has.of[0].left) : null;
  const isOfIt = ([condition, isTrue]: Statement): boolean =>
    !isTrue && condition.is === 'compare' && printValue(condition.left) === of;
  if (!statements.some((one) => isOfIt(one) && isEquality(one))) return statements;
  return statements
    .filter(([condition]) => condition !== has)
    .map((one) =>
      isOfIt(one) && isEquality(one)
        ? [{ ...(one[0] as Extract<Condition, { is: 'compare' }>), operator: '!=' as const }, true]
        : one,
    );
}

const isEquality = ([condition]: Statement): boolean =>
  condition.is === 'compare' && condition.operator === '=';

/** Takes together what differs in one term only, of the same kind: “with the role a or b”. */
function merge(clauses: readonly Clause[]): Clause[] {
  const current = [...clauses];
  for (let i = 0; i < current.length; i++)
    for (let j = i + 1; j < current.length; j++) {
      const both = together(current[i]!, current[j]!);
      if (both === null) continue;
      current[i] = both;
      current.splice(j, 1);
      // What was merged may go together with one that was passed over.
      i = -1;
      break;
    }
  return current;
}

function together(a: Clause, b: Clause): Clause | null {
  if (a.length !== b.length) return null;
  const missing = (of: Clause, from: Clause): Term[] => {
    const texts = new Set(from.map(textOf));
    return of.filter((term) => !texts.has(textOf(term)));
  };
  const [own, other] = [missing(a, b), missing(b, a)];
  const [one] = own;
  const [two] = other;
  if (!one || !two || own.length > 1 || other.length > 1 || !one.holds || !two.holds) return null;
  if (kindOf(one.anyOf[0]!) !== kindOf(two.anyOf[0]!)) return null;
  return a.map((term) =>
    term === one ? { holds: true, anyOf: [...one.anyOf, ...two.anyOf] } : term,
  );
}

const textOf = ({ holds, anyOf }: Term): string =>
  `${holds} ${anyOf.map(printCondition).sort().join('\n')}`;

/** Statements of one kind can be told together; a comparison stands by itself. */
function kindOf(condition: Condition): string {
  if (condition.is === 'bought') return `bought ${condition.state}`;
  return condition.is === 'role' || condition.is === 'group' || condition.is === 'person'
    ? condition.is
    : printCondition(condition);
}

const conditionOf = (clauses: readonly Clause[]): Condition => join('or', clauses.map(allOf));

const allOf = (clause: Clause): Condition =>
  join(
    'and',
    clause.flatMap(({ holds, anyOf }) =>
      holds ? [join('or', anyOf)] : anyOf.map((one): Condition => ({ is: 'not', of: one })),
    ),
  );

/** That a clause is not so: where each of its terms says what must not be, that one of these is. */
const negated = (clause: Clause): Condition =>
  clause.some(({ holds }) => holds)
    ? { is: 'not', of: allOf(clause) }
    : join(
        'or',
        clause.flatMap(({ anyOf }) => anyOf),
      );

function join(is: 'and' | 'or', of: readonly Condition[]): Condition {
  const [only, ...others] = of;
  if (only === undefined) return { is: is === 'and' ? 'anyone' : 'nobody' };
  return others.length === 0
    ? only
    : { is, of: of.flatMap((one) => (one.is === is ? one.of : [one])) };
}
