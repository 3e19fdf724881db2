import { evaluate, type Names, type Situation } from '../condition/evaluate.ts';
import type { Condition, Value } from '../model/condition.ts';
import { GUEST, type Attribute, type Visitor } from '../model/visitor.ts';

/** A comparison with a constant of what differs from one visitor, or one address, to the next. */
export interface Comparison {
  /** What names it among all comparisons. */
  readonly text: string;
  readonly condition: Extract<Condition, { is: 'compare' }>;
  readonly constant: Value;
}

/** What is compared, as a condition writes it: `visitor.town`, `visitor.id`, `language`, `path.year`, `query.q`. */
export type Compared = string;

/** A piece of an address that stands for many: what it may be. */
export interface Piece {
  readonly name: string;
  /** Whether an address of those that are looked at has this value there. */
  fits(value: string): boolean;
  /** Some values that do. */
  readonly samples: readonly string[];
}

/** Attributes but the id may have several values of any kind; everything else is a single text. */
export const isSingleText = (key: Compared): boolean =>
  key === 'visitor.id' || !key.startsWith('visitor.');

/**
 * Which of some comparisons a single value can meet together: one list of answers for each kind of value that
 * they tell apart.
 */
export function answersOfValues(
  key: Compared,
  comparisons: readonly Comparison[],
  names: Names,
  piece?: Piece,
): boolean[][] {
  const constants = comparisons.map(({ constant }) => constant);
  const answers = new Map<string, boolean[]>();
  const around = valuesAround(constants, isSingleText(key));
  const values = piece
    ? [...around, ...piece.samples].filter((value) => piece.fits(String(value)))
    : around;
  for (const value of values) {
    const situation = situationWith(key, value);
    const each = comparisons.map(({ condition }) => evaluate(condition, situation, names));
    answers.set(each.join(), each);
  }
  return [...answers.values()];
}

/**
 * A value with which some comparisons come out as wanted; null where there is none.
 *
 * @param wanted by the text of the comparison; of others it does not matter how they come out
 */
export function valueMeeting(
  key: Compared,
  comparisons: readonly Comparison[],
  wanted: ReadonlyMap<string, boolean>,
  names: Names,
  piece?: Piece,
): Attribute | null {
  const asked = comparisons.filter(({ text }) => wanted.has(text));
  const meets = (value: Attribute): boolean => {
    const situation = situationWith(key, value);
    return asked.every(
      ({ text, condition }) => evaluate(condition, situation, names) === wanted.get(text),
    );
  };
  const isSingle = isSingleText(key);
  const around = valuesAround(
    comparisons.map(({ constant }) => constant),
    isSingle,
  );
  // What reads well comes first.
  const plain = ['other', ...asked.flatMap(({ constant }) => constantOf(constant) ?? [])];
  const values = piece
    ? [...piece.samples, ...plain, ...around].filter((value) => piece.fits(String(value)))
    : [...plain, ...around];
  const one = values.find(meets);
  if (one !== undefined || isSingle) return one ?? null;
  const several = asked.flatMap(({ text, constant }) =>
    wanted.get(text) ? (constantOf(constant) ?? []) : [],
  );
  return meets(several) ? several : null;
}

const constantOf = (value: Value): string | number | null =>
  value.is === 'string' || value.is === 'number'
    ? value.value
    : value.is === 'date'
      ? value.text
      : null;

/** Where a visitor or an address has one value, and nothing else that could be compared. */
export function situationWith(key: Compared, value: Attribute): Situation {
  const visitor = { ...GUEST, guest: false };
  const text = String(value);
  const [of, name = ''] = splitOnce(key);
  if (of === 'language') return situationOf({ ...visitor, language: text });
  if (of === 'path') return { ...situationOf(visitor), path: { [name]: text } };
  if (of === 'query')
    return { ...situationOf(visitor), query: new URLSearchParams([[name, text]]).toString() };
  return situationOf(
    name === 'id' ? { ...visitor, id: text } : { ...visitor, attributes: { [name]: value } },
  );
}

const splitOnce = (key: Compared): string[] => /^([^.]*)(?:\.(.*))?$/s.exec(key)!.slice(1);

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
