/** Joins names as a sentence does: “a”, “a and b”, “a, b and c”. */
export function inWords(items: readonly string[], conjunction: 'and' | 'or' = 'and'): string {
  if (items.length < 2) return items[0] ?? '';
  return `${items.slice(0, -1).join(', ')} ${conjunction} ${items.at(-1)}`;
}
