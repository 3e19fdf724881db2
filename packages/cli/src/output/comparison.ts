import { OUTCOME_WORDS, type Comparison } from '@kleidon/client';
import { bold, count, dim, green, red, yellow } from './style.ts';
import { wrapped } from './wrapped.ts';

type Change = Comparison['changes'][number];
type Difference = Comparison['differences'][number];

const SIGNS = { gains: '+', loses: '−', otherwise: '~' } as const;
const PAINT = { gains: green, loses: red, otherwise: yellow };

const KINDS: Readonly<Record<Difference['kind'], string>> = {
  page: 'pages',
  'other-address': 'other addresses',
  redirect: 'redirects',
  elsewhere: 'no page at',
  landing: 'landing',
  part: 'parts',
  'menu-link': 'menu links',
  'search-engines': 'listed',
};

/** A comparison, by the rules that are the cause. */
export function printComparison(before: string, after: string, found: Comparison): string {
  const { changes, differences, total, notFrom, timeZone } = found;
  if (changes.length === 0) return `${before} and ${after} say the same.`;
  const dayOf = (moment: string): string => dayIn(timeZone, moment);
  const groups = changes.map((change, i) => printChange(change, ofCause(differences, i), dayOf));
  const without = changes.filter((change) => change.differences === 0);
  const changed = groups.filter((lines) => lines.length > 0);
  return [
    ...changed.flatMap((lines) => [...lines, '']),
    ...(without.length > 0
      ? [wrapped('', `Without effect for anyone: ${without.map(nameOf).join(', ')}.`), '']
      : []),
    [
      count(changes.length, 'change'),
      count(total, 'difference'),
      ...(differences.length < total ? [`${differences.length} shown`] : []),
    ].join(', '),
    ...(notFrom === null
      ? []
      : [`Not compared from ${dayOf(notFrom)} on: there are too many dates.`]),
  ].join('\n');
}

/** A moment as the date or time of the site's zone. */
const dayIn = (timeZone: string, moment: string): string =>
  new Date(moment).toLocaleString('sv-SE', { timeZone }).replace(/ 00:00:00$/, '');

const nameOf = ({ rule, is }: Change): string => `${rule} ${is}`;

/** What a change is a cause of; of several causes, the first has it in full. */
const ofCause = (differences: readonly Difference[], position: number): Difference[] =>
  differences.filter(({ causes }) => causes[0] === position);

function printChange(
  change: Change,
  differences: readonly Difference[],
  dayOf: (moment: string) => string,
): string[] {
  const line = change.lineAfter ?? change.lineBefore;
  const head = `${bold(change.rule)} ${change.is}${line === null ? '' : dim(` (line ${line})`)}`;
  if (differences.length === 0) return [];
  const people = groupedBy(differences, ({ is, words, from }) => JSON.stringify([is, words, from]));
  return [
    head,
    ...people.flatMap((alike) => {
      const [{ is, words, from, visitors }] = alike as [Difference];
      const named = visitors.length > 0 ? ` (${visitors.join(', ')})` : '';
      const since = from === null ? '' : ` from ${dayOf(from)}`;
      return [
        `  ${PAINT[is](SIGNS[is])} ${wrapped('    ', `${words}${since}${named}`).slice(4)}`,
        ...groupedBy(alike, ({ kind, right, before, after }) =>
          JSON.stringify([
            kind,
            right,
            before?.outcome,
            before?.status,
            after?.outcome,
            after?.status,
          ]),
        ).map(printKind),
      ];
    }),
  ];
}

function printKind(alike: readonly Difference[]): string {
  const [{ kind, right, before, after, is }] = alike as [Difference];
  const what = right === 'change' ? `changing ${KINDS[kind]}` : KINDS[kind];
  const how =
    before && after
      ? ` ${endInShort(before)} → ${endInShort(after)}`
      : kind === 'search-engines'
        ? is === 'gains'
          ? ' from now on'
          : ' no longer'
        : '';
  const names = alike.map(({ about, within }) =>
    within.length > 0 ? `${about} (${within.join(', ')})` : about,
  );
  return wrapped('      ', `${what}${how}: ${names.join(', ')}`);
}

const endInShort = ({ outcome, status }: NonNullable<Difference['before']>): string =>
  `${OUTCOME_WORDS[outcome].word} (${status})`;

function groupedBy<T>(items: readonly T[], keyOf: (item: T) => string): T[][] {
  const groups = new Map<string, T[]>();
  for (const item of items) {
    const key = keyOf(item);
    const group = groups.get(key);
    if (group) group.push(item);
    else groups.set(key, [item]);
  }
  return [...groups.values()];
}
