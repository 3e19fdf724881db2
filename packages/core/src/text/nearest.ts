/**
 * The known name that a mistyped one most likely stood for.
 *
 * @returns the nearest of `known` by edit distance, or null when none is near enough to be meant
 */
export function nearest(name: string, known: Iterable<string>): string | null {
  let best: string | null = null;
  let bestDistance = Math.max(2, Math.floor(name.length / 3)) + 1;
  for (const candidate of known) {
    if (Math.abs(candidate.length - name.length) >= bestDistance) continue;
    const distance = editDistance(name.toLowerCase(), candidate.toLowerCase());
    if (distance < bestDistance) {
      best = candidate;
      bestDistance = distance;
    }
  }
  return best;
}

/** “Did you mean `x`?” when something near is known, otherwise the list of what is. */
export function didYouMean(name: string, known: Iterable<string>): string {
  const names = [...known];
  const near = nearest(name, names);
  if (near !== null) return `Did you mean "${near}"?`;
  if (names.length === 0) return 'None are defined yet.';
  return `Known: ${names.slice(0, 12).join(', ')}${names.length > 12 ? ', …' : ''}.`;
}

/**
 * Optimal string alignment distance: insertions, deletions, substitutions, swaps of neighbours.
 * @param limit a distance beyond this need not be known exactly
 * @returns the distance; something greater than `limit` where that is greater
 */
export function editDistance(a: string, b: string, limit = Infinity): number {
  if (Math.abs(a.length - b.length) > limit) return limit + 1;
  let beforeLast: number[] = [];
  let last = Array.from({ length: b.length + 1 }, (_, i) => i);
  for (let i = 1; i <= a.length; i++) {
    const row = [i];
    let leastInRow = i;
    for (let j = 1; j <= b.length; j++) {
      const cost = a[i - 1] === b[j - 1] ? 0 : 1;
      let least = Math.min(last[j]! + 1, row[j - 1]! + 1, last[j - 1]! + cost);
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1]) {
        least = Math.min(least, beforeLast[j - 2]! + 1);
      }
      row.push(least);
      if (least < leastInRow) leastInRow = least;
    }
    // A swap looks two rows back, so that one row beyond the limit is not the end yet.
    if (leastInRow > limit + 1) return limit + 1;
    beforeLast = last;
    last = row;
  }
  return last[b.length]!;
}
