import type { Reason } from '../model/reason.ts';
import type { Landing } from '../model/site.ts';
import type { Condition } from '../model/condition.ts';
import type { VisitEnd } from '../visit/visit.ts';
import {
  changedNames,
  mentions,
  nameOf,
  type ChangedNames,
  type Entry,
  type EntryChange,
  type EntryChanges,
} from './entry.ts';

/** Tells which of the entries that differ make a visit end in another way. */
export class Causes {
  private readonly byPlace: readonly [Map<string, EntryChange>, Map<string, EntryChange>];
  /** The entries of both states that stand somewhere, with what they say of visitors. */
  private readonly entries: ReadonlyMap<string, Entry>;
  private readonly names: ChangedNames;
  private readonly known = new Map<string, readonly EntryChange[]>();

  constructor(private readonly compared: EntryChanges) {
    const { before, after, changes } = compared;
    const placed = (state: 'before' | 'after'): Map<string, EntryChange> =>
      new Map(changes.flatMap((one) => (one[state] ? [[keyOf(one[state]), one] as const] : [])));
    this.byPlace = [placed('before'), placed('after')];
    this.entries = new Map(
      [...before, ...after].flatMap((one) =>
        one.place && one.conditions.length > 0 ? [[keyOf(one.place), one] as const] : [],
      ),
    );
    this.names = changedNames([...before, ...after], changes);
  }

  /** The causes of a difference between two visits: the rules that had a say in one of them and not in the other. */
  ofVisits(before: VisitEnd, after: VisitEnd): readonly EntryChange[] {
    const [was, is] = [reasonsOf(before), reasonsOf(after)];
    const [old, now] = [was, is].map((all) => new Set(all.map(saidBy)));
    const differing = [
      was.filter((one) => !now!.has(saidBy(one))),
      is.filter((one) => !old!.has(saidBy(one))),
    ] as const;
    const isAsked = ({ verdict }: Reason): boolean => verdict !== 'skipped';
    return (
      this.among(differing.map((all) => all.filter(isAsked))) ??
      this.among(differing) ??
      this.among([was, is]) ??
      this.general()
    );
  }

  /** The causes of a difference in what is not a visit: the entry itself, or the audiences that its condition names. */
  ofEntry(section: string, name: string, conditions: readonly Condition[]): readonly EntryChange[] {
    const own = this.compared.changes.filter((one) => one.section === section && one.name === name);
    if (own.length > 0) return own;
    return this.byMention(conditions) ?? this.general();
  }

  /** The causes of landing elsewhere, or of something else there. */
  ofLanding(
    rule: Landing | null,
    now: Landing | null,
    before: VisitEnd,
    after: VisitEnd,
  ): readonly EntryChange[] {
    const rules = [rule, now].filter((one) => one !== null);
    const own = this.compared.changes.filter(
      ({ section, entries }) =>
        section === 'landings' &&
        entries.some(({ place }) => rules.some((one) => place === one.place)),
    );
    if (own.length > 0) return this.same(own);
    return this.byMention(rules.map(({ who }) => who)) ?? this.ofVisits(before, after);
  }

  private among([was, is]: readonly (readonly Reason[])[]): readonly EntryChange[] | null {
    const found = new Set<EntryChange>();
    const unchanged: Reason[] = [];
    [was!, is!].forEach((reasons, i) => {
      for (const reason of reasons) {
        if (!reason.place) continue;
        const change = this.byPlace[i]!.get(keyOf(reason.place));
        if (change) found.add(change);
        else unchanged.push(reason);
      }
    });
    const conditions = unchanged.flatMap(
      ({ place }) => this.entries.get(keyOf(place!))?.conditions ?? [],
    );
    for (const change of this.byMention(conditions) ?? []) found.add(change);
    return found.size > 0 ? this.same([...found]) : null;
  }

  private byMention(conditions: readonly Condition[]): readonly EntryChange[] | null {
    const named = new Set<string>();
    for (const name of this.names)
      if (conditions.some((one) => mentions(one, new Set([name])))) named.add(name);
    if (named.size === 0) return null;
    const changed = this.compared.changes.filter((one) => nameOf(one) !== null);
    const own = changed.filter((one) => named.has(nameOf(one)!));
    return this.same(own.length > 0 ? own : changed);
  }

  /** What is asked without a place of its own: settings of the site and products; else whatever differs. */
  private general(): readonly EntryChange[] {
    const { changes } = this.compared;
    const settings = changes.filter(({ section }) => section === 'site' || section === 'products');
    return this.same(settings.length > 0 ? settings : changes);
  }

  /** One list for the same causes, so that lists are compared at a glance. */
  private same(changes: readonly EntryChange[]): readonly EntryChange[] {
    const key = changes
      .map(({ section, name, is }) => `${section} ${name} ${is}`)
      .sort()
      .join('\n');
    const before = this.known.get(key);
    if (before) return before;
    this.known.set(key, changes);
    return changes;
  }
}

const keyOf = ({ file = '', line, column }: NonNullable<Reason['place']>): string =>
  `${file}:${line}:${column}`;

const reasonsOf = ({ hops }: VisitEnd): Reason[] =>
  hops.flatMap(({ decision }) => decision.reasons);

const said = new WeakMap<Reason, string>();

/** What a reason says. Reasons of one decision belong to all visits that go through it. */
function saidBy(reason: Reason): string {
  let text = said.get(reason);
  if (text === undefined) {
    const { stage, rule, verdict, code } = reason;
    said.set(reason, (text = `${stage} ${rule} ${verdict} ${code}`));
  }
  return text;
}
