/** As many answers as are kept of each kind: a site file has ten megabytes at most. */
const KEPT = 8;

/** Puts an entry last, and drops the one that was not asked for longest. */
export function keepLast<T>(kept: Map<string, T>, key: string, value: T): void {
  kept.delete(key);
  kept.set(key, value);
  if (kept.size > KEPT) kept.delete(kept.keys().next().value!);
}
