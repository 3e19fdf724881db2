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
  const add = (entry: Entry): void => {
    entries.add(entry);
    entry.scopes.forEach((scope) => area.add(scope));
    entry.hosted?.scopes.forEach((scope) => elsewhere.add(scope));
  };
  all.filter(isDirectly).forEach(add);
  const own = new Area(tidy);
  for (const { section, scopes } of entries)
    if (section !== 'site') scopes.forEach((scope) => own.add(scope));
  const places = new Set([...entries].map(({ place }) => place));
  const meets = (some: Area, { targets }: Pick<Entry, 'targets'>): boolean =>
    targets.some((one) => (typeof one === 'string' ? some.hasPath(one) : some.mayMeet(one)));
  let rest = all.filter((entry) => !entries.has(entry));
  for (let size = -1; size !== entries.size;) {
    size = entries.size;
    const reached = rest.filter(
      (entry) => meets(area, entry) || (entry.hosted !== null && meets(elsewhere, entry.hosted)),
    );
    reached.forEach(add);
    rest = rest.filter((entry) => !entries.has(entry));
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

/** Scopes, so arranged that asking about one path costs its length. */
class Area {
  private readonly paths = new Set<string>();
  private readonly sections = new Set<string>();
  /** What the addresses of patterns begin with; what else is asked of them does not matter here. */
  private readonly starts = new Set<string>();

  constructor(private readonly tidy: Tidy) {}

  add({ pattern, under }: Scope): void {
    const literal = literalOf(pattern);
    if (literal === null) this.starts.add(startOf(pattern).toLowerCase());
    else (under ? this.sections : this.paths).add(this.formOf(literal));
  }

  hasPath(asked: string): boolean {
    const path = asked.toLowerCase();
    if (this.paths.has(path) || this.sections.has('/')) return true;
    if (pathsAbove(path).some((above) => this.sections.has(above))) return true;
    for (const start of this.starts) if (path.startsWith(start)) return true;
    return false;
  }

  mayMeet(pattern: Pattern): boolean {
    const literal = literalOf(pattern);
    if (literal !== null) return this.hasPath(normalizePath(literal, this.tidy));
    const start = startOf(pattern).toLowerCase();
    for (const all of [this.paths, this.sections])
      for (const one of all) if (one.startsWith(start) || start.startsWith(one)) return true;
    for (const one of this.starts) if (one.startsWith(start) || start.startsWith(one)) return true;
    return false;
  }

  /** Without regard to case: too many addresses are no mistake here. */
  private formOf(path: string): string {
    return normalizePath(path, this.tidy).toLowerCase();
  }
}
