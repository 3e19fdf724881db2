import { readSite } from '../site/read/read.ts';
import type { SiteValue } from '../site/edit/edit.ts';
import type { Addition, RejectedRow } from './proposal.ts';

/** An entry of a file of lines. */
export interface LineEntry {
  readonly name: string;
  readonly value: unknown;
  readonly line: number;
}

/**
 * Takes a row unless one of the same name was taken; then the line of that one is told.
 * @param taken the rows that were taken, by name
 */
export function takeOnce<T extends { readonly line: number }>(
  taken: Map<string, T>,
  refused: RejectedRow[],
  name: string,
  row: T,
  what = name,
): void {
  const before = taken.get(name);
  if (before === undefined) taken.set(name, row);
  else refused.push({ what, line: row.line, why: `It stands on line ${before.line} already.` });
}

/** Parts entries into those that a site file can have and those that it can't; both in the order of the lines. */
export function partitionValid(
  site: SiteValue,
  section: 'pages' | 'visitors' | 'redirects',
  entries: readonly LineEntry[],
  refusedBefore: readonly RejectedRow[],
): { additions: Addition[]; refused: RejectedRow[] } {
  const wrong = checkEntries(site, section, entries);
  const additions = entries
    .filter((_, i) => wrong[i] === null)
    .map(({ name, value, line }): Addition => ({ section, name, value, line }));
  const refused = entries.flatMap(({ name, line }, i): RejectedRow[] => {
    const why = wrong[i] ?? null;
    return why === null ? [] : [{ what: name, line, why }];
  });
  return {
    additions,
    refused: [...refusedBefore, ...refused].sort((a, b) => (a.line ?? 0) - (b.line ?? 0)),
  };
}

/**
 * What is wrong with each of some entries, were they in a site file beside its roles, groups and
 * products; null where nothing is.
 */
function checkEntries(
  site: SiteValue,
  section: 'pages' | 'visitors' | 'redirects',
  entries: readonly LineEntry[],
): (string | null)[] {
  const { kleidon, site: head, roles, groups, products, audiences } = site;
  const about = { kleidon, site: head, roles, groups, products, audiences };
  const first = Object.entries(about)
    .filter(([, value]) => value !== undefined)
    .map(([name, value]) => `${JSON.stringify(name)}: ${JSON.stringify(value)}`);
  // One entry a line, so that the line of an error says which entry it is about.
  const lines = entries.map(({ name, value }) =>
    section === 'redirects'
      ? `  - ${JSON.stringify(value)}`
      : `  ${JSON.stringify(name)}: ${JSON.stringify(value)}`,
  );
  const read = readSite([...first, `${section}:`, ...lines, ''].join('\n'), 'entries');
  const wrong = new Map<number, string>();
  for (const { line, message, remedy } of read.ok ? [] : read.errors) {
    const position = line - first.length - 2;
    if (!wrong.has(position)) wrong.set(position, `${message} ${remedy}`);
  }
  return entries.map((_, i) => wrong.get(i) ?? null);
}
