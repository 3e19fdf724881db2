import type { Suggestion } from '../model/suggestion.ts';

/**
 * The known name that a mistyped one most likely stood for.
 *
 * @returns the nearest of `known` by edit distance, or null when none is near enough to be meant
 */
export function nearest(name: string, known: Iterable<string>): string | null {
  let best: string | null = null;
  const lower = name.toLowerCase();
  let bestDistance = Math.max(2, Math.floor(name.length / 3)) + 1;
  for (const candidate of known) {
    if (Math.abs(candidate.length - name.length) >= bestDistance) continue;
    const distance = editDistance(lower, candidate.toLowerCase(), bestDistance);
    if (distance < bestDistance) {
      best = candidate;
      bestDistance = distance;
    }
  }
  return best;
}

/** As many known names as are told; one more says that there are others. */
const MOST_KNOWN = 13;

/** What a name that is not known may have meant. */
export function suggest(name: string, known: Iterable<string>): Suggestion {
  const names = [...known];
  const meant = nearest(name, names);
  return { meant, known: meant === null ? names.slice(0, MOST_KNOWN) : [] };
}

const FAR = 1 << 20;
// Rows of the table of distances; used again by each call, since names are compared by the thousand.
let rows: [Int32Array, Int32Array, Int32Array] = [
  new Int32Array(64),
  new Int32Array(64),
  new Int32Array(64),
];

/**
 * Optimal string alignment distance: insertions, deletions, substitutions, swaps of neighbours.
 * @param limit a distance beyond this need not be known exactly; what is looked at grows with it (Ukkonen's band)
 * @returns the distance; something greater than `limit` where that is greater
 */
export function editDistance(a: string, b: string, limit = Infinity): number {
  const longest = a.length > b.length ? a.length : b.length;
  const shortest = a.length + b.length - longest;
  const most = limit < longest ? limit : longest;
  if (longest - shortest > most) return most + 1;
  if (rows[0].length < b.length + 2)
    rows = [0, 1, 2].map(() => new Int32Array(2 * b.length + 2)) as typeof rows;
  let [beforeLast, last, row] = rows;
  for (let j = 0; j <= b.length; j++) last[j] = j;
  for (let i = 1; i <= a.length; i++) {
    const from = i > most ? i - most : 1;
    const to = i + most < b.length ? i + most : b.length;
    row[from - 1] = from === 1 ? i : FAR;
    let leastInRow = row[from - 1]!;
    const letter = a.charCodeAt(i - 1);
    for (let j = from; j <= to; j++) {
      const other = b.charCodeAt(j - 1);
      // What lies beyond the band of the row before is too far away to matter.
      const above = j === i + most ? FAR : last[j]!;
      const before = row[j - 1]!;
      let least = last[j - 1]! + (letter === other ? 0 : 1);
      if (above < least) least = above + 1;
      if (before < least) least = before + 1;
      const isSwapped =
        i > 1 && j > 1 && letter === b.charCodeAt(j - 2) && a.charCodeAt(i - 2) === other;
      if (isSwapped && beforeLast[j - 2]! < least) least = beforeLast[j - 2]! + 1;
      row[j] = least;
      if (least < leastInRow) leastInRow = least;
    }
    // A swap looks two rows back, so that one row beyond the limit is not the end yet.
    if (leastInRow > most + 1) return most + 1;
    [beforeLast, last, row] = [last, row, beforeLast];
  }
  return last[b.length]!;
}
