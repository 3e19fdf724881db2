import type { Finding } from '../model/finding.ts';

/** The findings that a change brings: those that were not there before, wherever they stand now. */
export function introducedFindings(
  before: readonly Finding[],
  after: readonly Finding[],
): Finding[] {
  const known = new Set(before.map(keyOf));
  return after.filter((finding) => !known.has(keyOf(finding)));
}

const keyOf = ({ code, about }: Finding): string => JSON.stringify([code, about]);
