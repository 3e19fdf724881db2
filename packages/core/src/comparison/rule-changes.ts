import type { Site } from '../model/site.ts';
import { changeOf, type Entry, type EntryChange, type EntryChanges } from './entry.ts';
import { entriesOf } from './entries.ts';
import { redirectChanges } from './redirect-changes.ts';

/** Compares two states of a site entry by entry; where entries stand does not matter. */
export function entryChanges(before: Site, after: Site): EntryChanges {
  const all = [entriesOf(before), entriesOf(after)] as const;
  const [was, is] = all.map(byName) as [EntriesByName, EntriesByName];
  const changes = [...new Set([...was.keys(), ...is.keys()])].flatMap((key) =>
    changesOf(was.get(key) ?? [], is.get(key) ?? []),
  );
  const redirects = redirectChanges(before, after);
  return {
    before: [...all[0], ...redirects.before],
    after: [...all[1], ...redirects.after],
    changes: [...changes, ...redirects.changes],
  };
}

type EntriesByName = ReadonlyMap<string, readonly Entry[]>;

/** Groups entries by section and name. Entries of a list may share a name. */
function byName(entries: readonly Entry[]): EntriesByName {
  const same = new Map<string, Entry[]>();
  for (const entry of entries) {
    const key = JSON.stringify([entry.section, entry.name]);
    const others = same.get(key);
    if (others) others.push(entry);
    else same.set(key, [entry]);
  }
  return same;
}

/** Returns the changes of entries with one name. It omits equal entries, and pairs the others in order. */
function changesOf(was: readonly Entry[], is: readonly Entry[]): EntryChange[] {
  const left = [...is];
  const gone = was.filter(({ says }) => {
    const same = left.findIndex((one) => one.says === says);
    if (same === -1) return true;
    left.splice(same, 1);
    return false;
  });
  const pairs = Math.max(gone.length, left.length);
  return Array.from({ length: pairs }, (_, i) => changeOf(gone[i], left[i]));
}
