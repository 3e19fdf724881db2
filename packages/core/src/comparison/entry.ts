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
  /** The products that it is a bundle of. */
  readonly includes: readonly string[];
  /** It may offer products. */
  readonly offers: boolean;
  /** It may hide pages: then whether a page is there depends on who asks. */
  readonly hides?: boolean;
  /** It asks whether a page is there. */
  readonly unlessPage?: boolean;
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

/** What conditions name that differs, such as `audience crew` or `product map`. */
export type ChangedNames = ReadonlySet<string>;

/** The names of audiences and products that differ, of audiences that mention such a one, and of what a bundle holds. */
export function changedNames(all: readonly Entry[], changes: readonly EntryChange[]): ChangedNames {
  const names = new Set(changes.flatMap((one) => nameOf(one) ?? []));
  for (let size = -1; size !== names.size;) {
    size = names.size;
    for (const one of all) {
      const name = nameOf(one);
      if (name === null) continue;
      if (one.conditions.some((condition) => mentions(condition, names))) names.add(name);
      if (names.has(name)) one.includes.forEach((inner) => names.add(`product ${inner}`));
    }
  }
  return names;
}

/** By what conditions name an entry; null where none does. */
export function nameOf({ section, name }: Pick<Entry, 'section' | 'name'>): string | null {
  if (section === 'audiences') return `audience ${name}`;
  return section === 'products' ? `product ${name}` : null;
}

/** Whether a condition names one of these. */
export function mentions(condition: Condition, names: ChangedNames): boolean {
  let is = false;
  walk(condition, (inner) => {
    if (inner.is === 'audience') is ||= names.has(`audience ${inner.name}`);
    if (inner.is === 'bought') is ||= names.has(`product ${inner.product}`);
  });
  return is;
}
