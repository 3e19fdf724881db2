import {
  COMPARED_KINDS,
  comparedPeople,
  dayIn,
  GAINS,
  howInWords,
  OUTCOME_WORDS,
  wasAndIs,
  withoutEffect,
  type ComparedPeople,
  type Comparison,
} from '@kleidon/client';
import { bold, count, dim, green, red, yellow } from './style.ts';
import { wrapped } from './wrapped.ts';

type Change = Comparison['changes'][number];
type Difference = Comparison['differences'][number];

const PAINT = { gains: green, loses: red, otherwise: yellow };

/** A comparison, by the rules that are the cause. */
export function printComparison(before: string, after: string, found: Comparison): string {
  const { changes, differences, total, notFrom, notCompared, timeZone } = found;
  if (changes.length === 0) return `${before} and ${after} say the same.`;
  const dayOf = (moment: string): string => dayIn(timeZone, moment);
  const groups = changes.map((change, i) =>
    printChange(change, comparedPeople(differences, i), dayOf),
  );
  const without = changes.filter((change) => change.differences === 0);
  const changed = groups.filter((lines) => lines.length > 0);
  return [
    ...changed.flatMap((lines) => [...lines, '']),
    ...(without.length > 0
      ? [wrapped('', `${withoutEffect(found)}: ${without.map(nameOf).join(', ')}.`), '']
      : []),
    [
      count(changes.length, 'change'),
      count(total, 'difference'),
      ...(differences.length < total ? [`${differences.length} shown`] : []),
    ].join(', '),
    ...(notCompared.length === 0
      ? []
      : [wrapped('', `Not compared, for they have too many cases: ${notCompared.join(', ')}.`)]),
    ...(notFrom === null
      ? []
      : [`Not compared from ${dayOf(notFrom)} on: there are too many dates.`]),
  ].join('\n');
}

const nameOf = ({ rule, is }: Change): string => `${rule} ${is}`;

function printChange(
  change: Change,
  people: readonly ComparedPeople[],
  dayOf: (moment: string) => string,
): string[] {
  if (people.length === 0) return [];
  const line = change.lineAfter ?? change.lineBefore;
  return [
    `${bold(change.rule)} ${change.is}${line === null ? '' : dim(` (line ${line})`)}`,
    ...people.flatMap(({ is, words, from, visitors, places }) => {
      const named = visitors.length > 0 ? ` (${visitors.join(', ')})` : '';
      const since = from === null ? '' : ` from ${dayOf(from)}`;
      return [
        `  ${PAINT[is](GAINS[is].sign)} ${wrapped('    ', `${words}${since}${named}`).slice(4)}`,
        ...places.map(({ differences }) => printPlaces(differences)),
      ];
    }),
  ];
}

function printPlaces(alike: readonly [Difference, ...Difference[]]): string {
  const [first] = alike;
  const { kind, right } = first;
  const what = right === 'change' ? `changing ${COMPARED_KINDS[kind]}` : COMPARED_KINDS[kind];
  const how = howInWords(first, endInShort);
  const names = alike.map((one) => {
    const more = [...one.within, ...(alike.length === 1 && one.how ? [wasAndIs(one.how)] : [])];
    return more.length > 0 ? `${one.about} (${more.join(', ')})` : one.about;
  });
  return wrapped('      ', `${what}${how === null ? '' : ` ${how}`}: ${names.join(', ')}`);
}

const endInShort = ({ outcome, status }: NonNullable<Difference['before']>): string =>
  `${OUTCOME_WORDS[outcome].word} (${status})`;
