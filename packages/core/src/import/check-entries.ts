import type { SiteValue } from '../model/plain-value.ts';
import { ErrorList, type YamlPath } from '../site/yaml/document.ts';
import type { SiteProblem } from '../model/site-error.ts';
import { entriesOf } from '../site/edit/refused.ts';
import { checkNames } from '../site/read/read.ts';
import { checkSection } from '../site/read/check-section.ts';
import { readerFor } from '../site/read/reader-for.ts';
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
  else refused.push({ what, line: row.line, problem: { code: 'row-twice', line: before.line } });
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
    const problem = wrong[i] ?? null;
    return problem === null ? [] : [{ what: name, line, problem: { code: 'invalid', problem } }];
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
): (SiteProblem | null)[] {
  const positions = new Map(entries.map(({ name }, i) => [name, i]));
  // The line of an error says which entry it is about.
  const place = ([, key]: YamlPath) => ({
    line: typeof key === 'number' ? key : (positions.get(String(key)) ?? -1),
    column: 1,
  });
  const places = { valueAt: place, keyAt: place, within: place };
  const list = new ErrorList('entries', [], places);
  const read = readerFor(site, list);
  const keyed = entries.map(({ name, value }, i) => [section === 'redirects' ? i : name, value]);
  if (section === 'visitors')
    checkNames(section, [...Object.keys(entriesOf(site, section)), ...positions.keys()], list);
  checkSection(section, keyed as [string | number, unknown][], read, places);
  const wrong = new Map<number, SiteProblem>();
  for (const { line, problem } of list.errors) if (!wrong.has(line)) wrong.set(line, problem);
  return entries.map((_, i) => wrong.get(i) ?? null);
}
