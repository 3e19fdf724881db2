import { evaluate, type Names, type Situation } from '../condition/evaluate.ts';
import type { Condition, Value } from '../model/condition.ts';
import { GUEST, type Attribute, type Visitor } from '../model/visitor.ts';

/** A comparison of an attribute, of the id or of the language of a visitor with a constant. */
export interface Comparison {
  /** What names it among all comparisons. */
  readonly text: string;
  readonly condition: Extract<Condition, { is: 'compare' }>;
  readonly constant: Value;
}

/** What is compared: `visitor.town`, `visitor.id` or `language`. */
export type Compared = string;

/** Ids and languages are single texts; other attributes may have several values of any kind. */
export const isSingleText = (key: Compared): boolean => key === 'language' || key === 'visitor.id';

/**
 * Which of some comparisons a single value can meet together: one list of answers for each kind of value that
 * they tell apart.
 */
export function answersOfValues(
  key: Compared,
  comparisons: readonly Comparison[],
  names: Names,
): boolean[][] {
  const constants = comparisons.map(({ constant }) => constant);
  const answers = new Map<string, boolean[]>();
  for (const value of valuesAround(constants, isSingleText(key))) {
    const situation = situationOf(visitorWith(key, value));
    const each = comparisons.map(({ condition }) => evaluate(condition, situation, names));
    answers.set(each.join(), each);
  }
  return [...answers.values()];
}

/** A visitor with one value, and nothing else that could be compared. */
export function visitorWith(key: Compared, value: Attribute): Visitor {
  const visitor = { ...GUEST, guest: false };
  if (key === 'language') return { ...visitor, language: String(value) };
  const name = key.slice('visitor.'.length);
  return name === 'id'
    ? { ...visitor, id: String(value) }
    : { ...visitor, attributes: { [name]: value } };
}

/** The situation of a visitor where nothing else counts. */
export const situationOf = (visitor: Visitor): Situation => ({
  visitor,
  at: 0,
  path: {},
  query: '',
});

const DAY = 86_400_000;

/** Values of every kind that comparisons with some constants can tell apart: they, and what is between them. */
function valuesAround(constants: readonly Value[], isText: boolean): Attribute[] {
  const texts = constants.flatMap((one) =>
    one.is === 'string' ? [one.value] : one.is === 'date' ? [one.text] : [],
  );
  const numbers = constants.flatMap((one) => {
    if (one.is === 'number') return [one.value];
    return one.is === 'string' && /^-?\d+(?:\.\d+)?$/.test(one.value) ? [Number(one.value)] : [];
  });
  const sorted = [...new Set(numbers)].sort((a, b) => a - b);
  const around = sorted.flatMap((number, i) => {
    const next = sorted[i + 1] ?? number + 2;
    return [...(i === 0 ? [number - 1] : []), number, (number + next) / 2];
  });
  const moments = texts.flatMap((text) => {
    const at = Date.parse(text.length === 10 ? `${text}T00:00:00Z` : text);
    return Number.isNaN(at) ? [] : [at - DAY, at, at + 1000, at + DAY];
  });
  const strings = [
    '',
    ...texts.flatMap((text) => [text, `${text}\u0000`, text.slice(0, -1)]),
    ...around.map(String),
    ...moments.map((at) => new Date(at).toISOString().replace('.000', '')),
    '~',
    '\u{10ffff}',
  ];
  return isText ? strings : [...strings, ...around, true, false];
}
