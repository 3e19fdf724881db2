import { walk, type Condition } from '../model/condition.ts';
import type { Pattern } from '../model/pattern.ts';
import type { SectionName } from '../model/section.ts';
import type { Scope } from '../model/site.ts';
import type { SourceLocation } from '../model/source-location.ts';

/** Sections whose entries are compared one by one; of every other section it is only told that it differs. */
export type ChangedSection = SectionName | 'site';

/** An entry of a site file that differs between two states. */
export interface RuleChange {
  readonly section: ChangedSection;
  /** What it is called: the address of a page, what a redirect is from, the name of a gate or a setting. */
  readonly name: string;
  readonly is: 'added' | 'removed' | 'changed';
  /** Where it stands in each state; null where it does not, and for what has no single place. */
  readonly before: SourceLocation | null;
  readonly after: SourceLocation | null;
}

/** An entry of one state: what of it matters, and where its addresses are. */
export interface Entry {
  readonly section: ChangedSection;
  readonly name: string;
  /** All that it says, as text: two entries that say the same are the same. */
  readonly says: string;
  readonly place: SourceLocation | null;
  /** The addresses at which it is asked. */
  readonly scopes: readonly Scope[];
  /** Where it may take someone, or whose page it may show. */
  readonly targets: readonly (string | Pattern)[];
  /** The same at other hosts, of which only redirects are known. */
  readonly hosted: Pick<Entry, 'scopes' | 'targets'> | null;
  readonly conditions: readonly Condition[];
  /** It may offer products. */
  readonly offers: boolean;
}

/** An entry with what is the same in two states left out. */
export interface EntryChange extends RuleChange {
  readonly entries: readonly Entry[];
}

/** The entries of both states, and those that differ. */
export interface EntryChanges {
  readonly before: readonly Entry[];
  readonly after: readonly Entry[];
  readonly changes: readonly EntryChange[];
}

/** The difference of an entry that stands in one state, or in both. */
export function changeOf(old: Entry | undefined, now: Entry | undefined): EntryChange {
  const { section, name } = (now ?? old)!;
  return {
    section,
    name,
    is: old ? (now ? 'changed' : 'removed') : 'added',
    before: old?.place ?? null,
    after: now?.place ?? null,
    entries: [old, now].filter((one) => one !== undefined),
  };
}

/** The audiences that differ, and those that mention such a one. */
export function changedAudiences(
  all: readonly Entry[],
  changes: readonly EntryChange[],
): Set<string> {
  const names = new Set(
    changes.filter(({ section }) => section === 'audiences').map(({ name }) => name),
  );
  const audiences = all.filter(({ section }) => section === 'audiences');
  for (let size = -1; size !== names.size;) {
    size = names.size;
    for (const { name, conditions } of audiences)
      if (conditions.some((one) => mentions(one, names))) names.add(name);
  }
  return names;
}

/** Whether a condition names one of some audiences. */
export function mentions(condition: Condition, audiences: ReadonlySet<string>): boolean {
  let is = false;
  walk(condition, (inner) => {
    if (inner.is === 'audience' && audiences.has(inner.name)) is = true;
  });
  return is;
}
