import { evaluate, type Names } from '../condition/evaluate.ts';
import {
  answersOfValues,
  isSingleText,
  situationWith,
  type Compared,
  type Comparison,
  type Piece,
} from './attribute-values.ts';
import { ALL, NONE, type VisitorSets } from './visitor-sets.ts';

/** A statement in a set of visitors. */
interface Statement {
  readonly variable: number;
  /** Those of whom it is true. */
  readonly set: number;
}

interface Person extends Statement {
  readonly name: string;
}

/** All comparisons of one value with constants. */
interface ComparedValue {
  readonly key: Compared;
  /** Those who have such a value. */
  readonly having: number;
  /** What it may be, for a piece of an address. */
  readonly piece: Piece | undefined;
  readonly comparisons: readonly (Comparison & Statement)[];
}

type Answers = readonly (readonly boolean[])[];

/** What is possible together: a person has one id, and a value meets what it can meet. */
export function tiesOf(
  sets: VisitorSets,
  names: Names,
  people: readonly Person[],
  compared: readonly ComparedValue[],
): number {
  const ids = people.map(({ variable }) => variable).sort((a, b) => a - b);
  const oneOfThem = ids.map((id) => ids.map((other) => other === id));
  const oneId = sets.anyRow(ids, [ids.map(() => false), ...oneOfThem]);
  return sets.allOf([
    oneId,
    ...compared.map((value) => sets.ifThenElse(value.having, metBy(sets, names, value), ALL)),
    ...compared
      .filter(({ key }) => key === 'visitor.id')
      .map(({ comparisons }) => tieIds(sets, names, people, comparisons)),
  ]);
}

/** What can be met together by those who have a value. */
function metBy(
  sets: VisitorSets,
  names: Names,
  { key, comparisons, piece }: ComparedValue,
): number {
  const answers = answersOfValues(key, comparisons, names, piece);
  if (isSingleText(key)) return exactly(sets, comparisons, answers);
  const equal = several(sets, comparisons, answers);
  // Several values can be equal to whatever one value can be.
  return comparisons.every(isEquality)
    ? equal
    : sets.or(equal, exactly(sets, comparisons, answers));
}

const isEquality = ({ condition }: Comparison): boolean => condition.operator === '=';

/** One value meets exactly what it meets. */
function exactly(
  sets: VisitorSets,
  comparisons: ComparedValue['comparisons'],
  answers: Answers,
): number {
  const columns = comparisons
    .map(({ variable }, i) => ({ variable, i }))
    .sort((a, b) => a.variable - b.variable);
  return sets.anyRow(
    columns.map(({ variable }) => variable),
    answers.map((each) => columns.map(({ i }) => each[i]!)),
  );
}

/** Several values are equal to whatever one of them is equal to; they have no order. */
function several(
  sets: VisitorSets,
  comparisons: ComparedValue['comparisons'],
  answers: Answers,
): number {
  const equals = (each: readonly boolean[]): number =>
    sets.allOf(comparisons.filter((one, i) => each[i] && isEquality(one)).map(({ set }) => set));
  return sets.allOf(
    comparisons.map((one, i) =>
      sets.or(
        sets.not(one.set),
        isEquality(one) ? sets.anyOf(answers.filter((each) => each[i]).map(equals)) : NONE,
      ),
    ),
  );
}

/** Whoever is a person by name meets what their id meets. */
function tieIds(
  sets: VisitorSets,
  names: Names,
  people: readonly Person[],
  comparisons: ComparedValue['comparisons'],
): number {
  return sets.allOf(
    people.flatMap((person) => {
      const situation = situationWith('visitor.id', person.name);
      return comparisons.map(({ condition, set }) => {
        const met = evaluate(condition, situation, names) ? set : sets.not(set);
        return sets.or(sets.not(person.set), met);
      });
    }),
  );
}
