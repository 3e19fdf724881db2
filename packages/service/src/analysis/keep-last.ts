/** The maximum number of answers of each kind that are kept. */
const KEPT = 8;
/** The maximum length of their keys together. Keys contain site files: what is kept of one takes some 30 times as much memory. */
const KEPT_TEXT = 10_000_000;

/** Puts an entry last, and drops those that were not asked for longest. */
export function keepLast<T>(kept: Map<string, T>, key: string, value: T): void {
  kept.delete(key);
  kept.set(key, value);
  let length = 0;
  for (const text of kept.keys()) length += text.length;
  for (const oldest of kept.keys()) {
    if (oldest === key || (kept.size <= KEPT && length <= KEPT_TEXT)) return;
    kept.delete(oldest);
    length -= oldest.length;
  }
}
