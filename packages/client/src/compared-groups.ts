import type { Comparison } from './api.ts';

type Difference = Comparison['differences'][number];

/** What happens in the same way at several places, to the same visitors. */
export interface ComparedPlaces {
  readonly differences: readonly [Difference, ...Difference[]];
}

/** Visitors to whom the same is done: they gain, they lose, or something else happens to them. */
export interface ComparedPeople {
  readonly is: Difference['is'];
  readonly words: string;
  /** From which moment on, where that is later. */
  readonly from: string | null;
  /** The visitors of the site file who are among them. */
  readonly visitors: readonly string[];
  readonly places: readonly ComparedPlaces[];
}

/** The sign of a gain or a loss, which can be told apart without colour, and what it means. */
export const GAINS: Readonly<Record<Difference['is'], { sign: string; word: string }>> = {
  gains: { sign: '+', word: 'gain' },
  loses: { sign: '−', word: 'lose' },
  otherwise: { sign: '~', word: 'meet something else' },
};

/** What differs, as a heading before the places. */
export const COMPARED_KINDS: Readonly<Record<Difference['kind'], string>> = {
  page: 'pages',
  'other-address': 'other addresses',
  redirect: 'redirects',
  undeclared: 'no page at',
  landing: 'landing',
  part: 'parts',
  'menu-link': 'menu links',
  'search-engines': 'listed',
};

/**
 * The differences that a change is the cause of, by whom they are about and what happens; one that has several causes
 * is with the first.
 *
 * @param position of the change in its list, from 0
 */
export function comparedPeople(
  differences: readonly Difference[],
  position: number,
): ComparedPeople[] {
  const own = differences.filter(({ causes }) => causes[0] === position);
  const bySameWords = groupedBy(own, ({ is, words, from }) => JSON.stringify([is, words, from]));
  return bySameWords.map((alike) => {
    const [{ is, words, from, visitors }] = alike;
    const places = groupedBy(alike, ({ kind, right, before, after, how }) =>
      JSON.stringify([
        ...[kind, right, before?.outcome, before?.status, after?.outcome, after?.status, how?.what],
      ]),
    );
    return { is, words, from, visitors, places: places.map((all) => ({ differences: all })) };
  });
}

/**
 * What happens to people at some places: how their visits end, before and after; where that is the same, in what
 * they differ. The words for an end are the caller's.
 */
export function howInWords(
  { before, after, how }: Difference,
  endInWords: (end: NonNullable<Difference['before']>) => string,
): string | null {
  if (!before || !after) return null;
  if (!how) return `${endInWords(before)} → ${endInWords(after)}`;
  return `${endInWords(after)}, ${WHAT_DIFFERS[how.what]}`;
}

/** In what visits differ that end alike. */
export const WHAT_DIFFERS: Readonly<Record<NonNullable<Difference['how']>['what'], string>> = {
  end: 'at another address',
  way: 'on another way',
  status: 'with another status of the redirect',
  content: 'with another content',
  source: 'from another source',
  wait: 'with another wait',
  caching: 'and browsers keep the redirect otherwise',
};

/** What was and what is, where outcome and status are the same; for the one place that they are about. */
export const wasAndIs = ({ before, after }: NonNullable<Difference['how']>): string =>
  `${before || 'itself'} → ${after || 'itself'}`;

function groupedBy<T>(items: readonly T[], keyOf: (item: T) => string): [T, ...T[]][] {
  const groups = new Map<string, [T, ...T[]]>();
  for (const item of items) {
    const key = keyOf(item);
    const group = groups.get(key);
    if (group) group.push(item);
    else groups.set(key, [item]);
  }
  return [...groups.values()];
}

/** How the changes are called that are the cause of no difference: of what was not compared nothing is known. */
export const withoutEffect = ({ notCompared }: Comparison): string =>
  notCompared.length > 0 ? 'Without effect in what was compared' : 'Without effect for anyone';

/** A moment as a day of a time zone, or as a time of one where it is not its beginning. */
export const dayIn = (timeZone: string, moment: string): string =>
  new Date(moment).toLocaleString('sv-SE', { timeZone }).replace(/ 00:00:00$/, '');

/** What is left of the differences of a comparison. */
export function filteredDifferences(
  { changes, differences }: Comparison,
  {
    page = '',
    rule = '',
    visitor = '',
  }: {
    readonly page?: string | undefined;
    readonly rule?: string | undefined;
    readonly visitor?: string | undefined;
  },
): Difference[] {
  const chosen = new Set(
    changes.flatMap((change, i) => (change.rule === rule || change.name === rule ? [i] : [])),
  );
  return differences.filter(
    ({ about, example, through, visitors, causes }) =>
      (page === '' || [about, example, ...through].includes(page)) &&
      (rule === '' || causes.some((cause) => chosen.has(cause))) &&
      (visitor === '' || visitors.includes(visitor)),
  );
}
