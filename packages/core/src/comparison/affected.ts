import { normalizePath } from '../address/tidy.ts';
import { pathsAbove } from '../everywhere/scopes.ts';
import { startOf } from '../explore/rules-near.ts';
import { literalOf, type Pattern } from '../model/pattern.ts';
import type { Scope } from '../model/site.ts';
import type { SourceLocation } from '../model/source-location.ts';
import type { Tidy } from '../model/tidy.ts';
import { ACCESS } from './entries.ts';
import { changedNames, mentions, type Entry, type EntryChanges } from './entry.ts';

/**
 * The addresses at which two states of a site can differ: where an entry stands that differs, and where one does that
 * takes people to such an address. Everything else is decided by the same rules in the same way.
 */
export interface Affected {
  /** The entries that stand there, of both states. */
  readonly entries: ReadonlySet<Entry>;
  /** Whether a path, in the form in which rules are matched, is one of them. */
  hasPath(path: string): boolean;
  /** Whether some addresses of a pattern may be; if not, none is. */
  mayMeet(pattern: Pattern): boolean;
  /** The same, but only where an entry stands that differs: elsewhere the first answer is the same. */
  mayDecide(pattern: Pattern): boolean;
  /** Whether an entry differs by itself, or by what it names. */
  isChanged(place: SourceLocation): boolean;
}

/** Finds them; null where any address is, because a setting of the whole site differs. */
export function affectedBy({ before, after, changes }: EntryChanges, tidy: Tidy): Affected | null {
  const isOfAll = ({ section, name }: Pick<Entry, 'section' | 'name'>): boolean =>
    section === 'site' && !HARMLESS.includes(name) && !ACCESS.includes(name);
  if (changes.some(isOfAll)) return null;
  const all = [...before, ...after];
  const names = changedNames(all, changes);
  const isProductChanged = changes.some(({ section }) => section === 'products');
  const changed = new Set(changes.flatMap(({ entries }) => entries));
  const [hid, hides] = [before, after].map((own) => own.some((entry) => entry.hides));
  const isDirectly = (entry: Entry): boolean =>
    changed.has(entry) ||
    // A redirect that depends on who asks is kept by nobody.
    (hid !== hides && entry.unlessPage === true) ||
    (isProductChanged && entry.offers) ||
    entry.conditions.some((one) => mentions(one, names));

  const area = new Area(tidy);
  const elsewhere = new Area(tidy);
  const entries = new Set<Entry>();
  // Each of them at most once: chains of redirects may be as long as the site file.
  const waiting = new Waiting(
    all.flatMap((entry) => entry.targets.map((to) => [to, entry] as const)),
    tidy,
  );
  const waitingElsewhere = new Waiting(
    all.flatMap((entry) => (entry.hosted?.targets ?? []).map((to) => [to, entry] as const)),
    tidy,
  );
  const toAdd = all.filter(isDirectly);
  const own = new Area(tidy);
  for (const { section, scopes } of toAdd)
    if (section !== 'site') scopes.forEach((scope) => own.add(scope));
  const places = new Set(toAdd.map(({ place }) => place));
  // The list grows while it is read.
  for (const entry of toAdd) {
    if (entries.has(entry)) continue;
    entries.add(entry);
    for (const scope of entry.scopes) toAdd.push(...waiting.meeting(area.add(scope)));
    for (const scope of entry.hosted?.scopes ?? [])
      toAdd.push(...waitingElsewhere.meeting(elsewhere.add(scope)));
  }
  return {
    entries,
    hasPath: (path) => area.hasPath(path),
    mayMeet: (pattern) => area.mayMeet(pattern),
    mayDecide: (pattern) => own.mayMeet(pattern),
    isChanged: (place) => places.has(place),
  };
}

/** Settings that change no answer by themselves. */
const HARMLESS: readonly string[] = ['servers'];

/** What a scope covers, without regard to case: too many addresses are no mistake here. */
interface Covered {
  readonly is: 'path' | 'section' | 'start';
  readonly text: string;
}

const formOf = (path: string, tidy: Tidy): string => normalizePath(path, tidy).toLowerCase();

/** All beginnings of a text, itself among them. */
const beginningsOf = (text: string): string[] =>
  Array.from({ length: text.length + 1 }, (_, length) => text.slice(0, length));

/** Scopes, so arranged that asking about one path costs its length. */
class Area {
  private readonly covered = {
    path: new Set<string>(),
    section: new Set<string>(),
    /** What the addresses of patterns begin with; what else is asked of them does not matter here. */
    start: new Set<string>(),
  };
  /** All of it, when it was last asked for. */
  private sorted: readonly string[] | null = null;

  constructor(private readonly tidy: Tidy) {}

  add({ pattern, under }: Scope): Covered {
    const literal = literalOf(pattern);
    const covered: Covered =
      literal === null
        ? { is: 'start', text: startOf(pattern).toLowerCase() }
        : { is: under ? 'section' : 'path', text: formOf(literal, this.tidy) };
    this.covered[covered.is].add(covered.text);
    this.sorted = null;
    return covered;
  }

  hasPath(asked: string): boolean {
    const path = asked.toLowerCase();
    const { path: paths, section: sections, start: starts } = this.covered;
    if (paths.has(path) || sections.has('/')) return true;
    if (pathsAbove(path).some((above) => sections.has(above))) return true;
    return starts.size > 0 && beginningsOf(path).some((one) => starts.has(one));
  }

  mayMeet(pattern: Pattern): boolean {
    const literal = literalOf(pattern);
    if (literal !== null) return this.hasPath(normalizePath(literal, this.tidy));
    const start = startOf(pattern).toLowerCase();
    const all = Object.values(this.covered);
    this.sorted ??= all.flatMap((some) => [...some]).sort();
    if (this.sorted[firstFrom(this.sorted, start)]?.startsWith(start)) return true;
    return beginningsOf(start).some((one) => all.some((some) => some.has(one)));
  }
}

/** The place of the first text of a sorted list that is not before another one. */
function firstFrom(sorted: readonly string[], text: string): number {
  let [from, to] = [0, sorted.length];
  while (from < to) {
    const middle = (from + to) >> 1;
    if (sorted[middle]! < text) from = middle + 1;
    else to = middle;
  }
  return from;
}

/** Entries by where they lead, each of which is told once: when something is covered that they lead to. */
class Waiting {
  /** By the path that they lead to, and by what it begins with where they lead to many. */
  private readonly paths = new Once();
  private readonly starts = new Once();

  constructor(
    targets: readonly (readonly [to: Entry['targets'][number], entry: Entry])[],
    tidy: Tidy,
  ) {
    for (const [to, entry] of targets) {
      const literal = typeof to === 'string' ? to : literalOf(to);
      if (typeof to !== 'string' && literal === null)
        this.starts.add(startOf(to).toLowerCase(), entry);
      else if (typeof to === 'string') this.paths.add(to.toLowerCase(), entry);
      else this.paths.add(formOf(literal!, tidy), entry);
    }
  }

  meeting({ is, text }: Covered): Entry[] {
    const { paths, starts } = this;
    const met = [...starts.beginningWith(text)];
    for (const beginning of beginningsOf(text)) met.push(...starts.at(beginning));
    if (is === 'start' || (text === '/' && is === 'section'))
      met.push(...paths.beginningWith(text));
    else {
      met.push(...paths.at(text));
      if (is === 'section') met.push(...paths.beginningWith(`${text}/`));
    }
    return met;
  }
}

/** Entries by texts; those that were taken are not found again. */
class Once {
  private readonly entries = new Map<string, Entry[]>();
  private sorted: string[] | null = null;
  /** For each taken place of the sorted list a later one that may not be taken; 0 for the others. */
  private next = new Uint32Array();

  add(text: string, entry: Entry): void {
    const same = this.entries.get(text);
    if (same) same.push(entry);
    else this.entries.set(text, [entry]);
  }

  at(text: string): readonly Entry[] {
    const found = this.entries.get(text) ?? [];
    this.entries.delete(text);
    return found;
  }

  beginningWith(text: string): Entry[] {
    if (!this.sorted) {
      this.sorted = [...this.entries.keys()].sort();
      this.next = new Uint32Array(this.sorted.length + 1);
    }
    const found: Entry[] = [];
    for (
      let i = this.notTaken(firstFrom(this.sorted, text));
      this.sorted[i]?.startsWith(text);
      i = this.notTaken(i + 1)
    ) {
      found.push(...this.at(this.sorted[i]!));
      this.next[i] = i + 1;
    }
    return found;
  }

  private notTaken(from: number): number {
    let end = from;
    while (this.next[end]) end = this.next[end]!;
    // The way is shorter for whoever comes next.
    for (let at = from; at !== end;) {
      const after = this.next[at]!;
      this.next[at] = end;
      at = after;
    }
    return end;
  }
}
