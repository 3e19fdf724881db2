import type { Site } from '../model/site.ts';
import { changeOf, type Entry, type EntryChange, type EntryChanges } from './entry.ts';
import { entriesOf } from './entries.ts';
import { redirectChanges } from './redirect-changes.ts';

/** Compares two states of a site entry by entry; where entries stand does not matter. */
export function entryChanges(before: Site, after: Site): EntryChanges {
  const all = [entriesOf(before), entriesOf(after)] as const;
  const [was, is] = all.map(byName) as [Map<string, Entry>, Map<string, Entry>];
  const changes = [...new Set([...was.keys(), ...is.keys()])].flatMap((key): EntryChange[] => {
    const [old, now] = [was.get(key), is.get(key)];
    return old?.says === now?.says ? [] : [changeOf(old, now)];
  });
  const redirects = redirectChanges(before, after);
  return {
    before: [...all[0], ...redirects.before],
    after: [...all[1], ...redirects.after],
    changes: [...changes, ...redirects.changes],
  };
}

/** Entries by section and name; those of a list that have the same name are told apart by what they say. */
function byName(entries: readonly Entry[]): Map<string, Entry> {
  const same = new Map<string, Entry[]>();
  for (const entry of entries) {
    const key = JSON.stringify([entry.section, entry.name]);
    const others = same.get(key);
    if (others) others.push(entry);
    else same.set(key, [entry]);
  }
  return new Map(
    [...same].flatMap(([key, those]) =>
      those.length === 1
        ? [[key, those[0]!] as const]
        : those.map((one, i) => [`${key} ${one.says} ${i}`, one] as const),
    ),
  );
}
