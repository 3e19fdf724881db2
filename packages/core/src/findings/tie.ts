import { indexedGates, indexedRedirect, indexedRewrite } from '../decision/prepared-site.ts';
import { startOf } from '../explore/rules-near.ts';
import { ALL } from '../explore/visitor-sets.ts';
import type { Gate, Redirect, Rewrite } from '../model/site.ts';
import { PathLanguage } from '../pattern/language.ts';
import { plainAddress, weighted, type Indexed } from '../pattern/pattern-index.ts';
import { patternShapeKey, shapesOf } from '../pattern/shape.ts';
import { compareSpecificity } from '../pattern/specificity.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

type Rule = Gate | Redirect | Rewrite;
type TiedKind = 'gates' | 'redirects' | 'rewrites';

/** Pairs of patterns of one kind: some seconds. */
const MAX_COMPARED = 50_000;
/** Ties that are reported for rules of one ranking. */
const MAX_SHARED = 100;

/** Two rules of one kind apply at the same address, to the same visitor at the same time, and only their names decide. */
export function tie(inspected: InspectionContext): FindingDraft[] {
  const { site } = inspected.prepared;
  return [
    ...(['view', 'change'] as const).flatMap((right) =>
      tiesAmong(inspected, 'gates', indexedGates(site, right)),
    ),
    ...tiesAmong(inspected, 'redirects', site.redirects.map(indexedRedirect)),
    ...tiesAmong(inspected, 'rewrites', site.rewrites.map(indexedRewrite)),
  ];
}

/** Whether only their names decide between two redirects at all addresses of both. */
export function areTied(one: Redirect, other: Redirect): boolean {
  const keys = [one, other].map((redirect) => {
    const indexed = indexedRedirect(redirect);
    const shapes = shapesOf(redirect.pattern.parts).map((shape) => weighted(shape, false));
    return JSON.stringify([
      shapes.map((shape) => rankingOf(indexed, shape.weights)),
      patternShapeKey(redirect.pattern),
      redirect.queryConstraints,
    ]);
  });
  return keys[0] === keys[1];
}

/** Everything by which the index orders rules, except their names. */
const rankingOf = <T>(
  { under, rank, fields, values, conditional }: Indexed<T>,
  weights: readonly number[],
): readonly unknown[] => [under, rank, fields, values, conditional, weights];

function tiesAmong<T extends Rule>(
  inspected: InspectionContext,
  kind: TiedKind,
  rules: readonly Indexed<T>[],
): FindingDraft[] {
  const found = new Map<string, FindingDraft>();
  const byRule = new Map<T, Indexed<T>[]>();
  for (const one of rules) {
    const same = byRule.get(one.rule);
    if (same) same.push(one);
    else byRule.set(one.rule, [one]);
  }
  /** A gate with several scopes is at each address by the nearest of them. */
  const withoutNearer = (one: Indexed<T>): PathLanguage =>
    byRule
      .get(one.rule)!
      .filter((other) => other !== one && comesBefore(other, one))
      .reduce((left, other) => left.without(PathLanguage.of(other)), PathLanguage.of(one));
  const areBothNearest = (one: Indexed<T>, other: Indexed<T>): boolean =>
    [one, other].every(({ rule }) => byRule.get(rule)!.length === 1) ||
    withoutNearer(one).meets(withoutNearer(other));
  const add = (tied: readonly Indexed<T>[], address: string | null): void => {
    const conflicting = [...new Set(tied)]
      .filter((one) =>
        tied.some(
          (other) =>
            other.rule !== one.rule &&
            canBothApply(inspected, one.rule, other.rule) &&
            areBothNearest(one, other),
        ),
      )
      .map(({ rule }) => rule)
      .filter((rule, i, all) => all.indexOf(rule) === i);
    if (conflicting.length < 2) return;
    // The same rules may tie at several addresses.
    const key = JSON.stringify(conflicting.map(nameOf).sort());
    if (!found.has(key)) found.set(key, describeTie(kind, conflicting, address));
  };
  for (const { address, tied } of bucketsOf(rules, inspected.prepared.site.host)) {
    if (tied.length < 2) continue;
    const groups = groupBy(tied, ({ pattern }) => patternShapeKey(pattern));
    if (address !== null) add(tied, groups.length === 1 ? null : address);
    else {
      for (const group of groups) add(group, null);
      for (const { pair, shared } of sharedAddresses(inspected, groups)) add(pair.flat(), shared);
    }
  }
  return [...found.values()];
}

interface Bucket<T> {
  /** The one address of all rules in it; null where they are patterns. */
  readonly address: string | null;
  readonly tied: Indexed<T>[];
}

/** Groups rules so that only their names order those of a group that match the same address. */
function bucketsOf<T extends Rule>(
  rules: readonly Indexed<T>[],
  host: string,
): Iterable<Bucket<T>> {
  const buckets = new Map<string, Bucket<T>>();
  for (const rule of rules)
    for (const each of shapesOf(rule.pattern.parts)) {
      const shape = weighted(each, rule.under);
      const address = plainAddress(shape);
      const own = ('host' in rule.rule ? rule.rule.host : null) ?? host;
      const key = JSON.stringify([own, address, rankingOf(rule, shape.weights)]);
      const bucket = buckets.get(key);
      if (bucket) bucket.tied.push(rule);
      else buckets.set(key, { address, tied: [rule] });
    }
  return buckets.values();
}

interface Shared<T> {
  readonly pair: readonly (readonly Indexed<T>[])[];
  /** An address of both. */
  readonly shared: string;
}

/** Finds an address of each two patterns that have some in common. */
function* sharedAddresses<T>(
  { prepared: { site }, reportLimit }: InspectionContext,
  groups: readonly (readonly Indexed<T>[])[],
): Generator<Shared<T>> {
  const sorted = groups
    .map((group) => ({ group, first: group[0]!, start: startOf(group[0]!.pattern) }))
    .sort((a, b) => (a.start < b.start ? -1 : 1));
  const left = { compared: MAX_COMPARED, shared: MAX_SHARED };
  for (const [i, one] of sorted.entries())
    // Patterns have addresses in common only if one begins with all that the other begins with.
    for (let j = i + 1; sorted[j]?.start.startsWith(one.start); j++) {
      const other = sorted[j]!;
      if (left.compared-- === 0 || left.shared === 0) {
        reportLimit();
        return;
      }
      const [mine, others] = [PathLanguage.of(one.first), PathLanguage.of(other.first)];
      if (!mine.meets(others)) continue;
      const both = mine.and(others).and(PathLanguage.tidy(site.tidy));
      const [shared] = both.examples(site.tidy);
      if (shared === undefined) continue;
      left.shared--;
      yield { pair: [one.group, other.group], shared };
    }
}

/** Whether one scope of a gate is more specific than another one. */
function comesBefore<T>(one: Indexed<T>, other: Indexed<T>): boolean {
  const [mine, others] = [one, other].map((indexed) => ({
    ...indexed,
    shape: weighted(shapesOf(indexed.pattern.parts)[0]!, indexed.under),
  }));
  return compareSpecificity(mine!, others!) < 0;
}

/** Whether some visitor can meet both rules at one moment from now on. */
function canBothApply(
  { explorer: { atoms }, at }: InspectionContext,
  one: Rule,
  other: Rule,
): boolean {
  const begin = Math.max(at, one.validFrom ?? at, other.validFrom ?? at);
  const end = Math.min(one.validUntil ?? Infinity, other.validUntil ?? Infinity);
  if (begin >= end) return false;
  if ('queryConstraints' in one && 'queryConstraints' in other) {
    const wanted = new Map(one.queryConstraints.map(({ field, value }) => [field, value]));
    const isCompatible = other.queryConstraints.every(({ field, value }) => {
      const own = wanted.get(field) ?? null;
      return own === null || value === null || own === value;
    });
    if (!isCompatible) return false;
  }
  const [first, second] = [one, other].map((rule) =>
    'when' in rule && rule.when !== null ? atoms.setOf(rule.when, null) : ALL,
  );
  return atoms.isAnyone(atoms.sets.and(first!, second!));
}

/** A gate is called by its name, a redirect or a rewrite by its source. */
const nameOf = (rule: Rule): string => ('source' in rule ? rule.source : rule.name);

function groupBy<T>(items: readonly T[], keyOf: (item: T) => string): T[][] {
  const groups = new Map<string, T[]>();
  for (const item of items) {
    const key = keyOf(item);
    const group = groups.get(key);
    if (group) group.push(item);
    else groups.set(key, [item]);
  }
  return [...groups.values()];
}

function describeTie(kind: TiedKind, rules: readonly Rule[], address: string | null): FindingDraft {
  return {
    code: 'tie',
    severity: 'medium',
    subject: { kind, name: rules.map(nameOf).join(', ') },
    place: rules.at(-1)!.place,
    values: {
      kind,
      rules: rules.map((rule) => ({ name: nameOf(rule), line: rule.place.line })),
      address,
    },
  };
}
