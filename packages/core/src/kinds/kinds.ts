import { exampleVisitor } from '../explore/example-visitor.ts';
import type { Explorer } from '../explore/explorer.ts';
import { familyOf } from '../explore/families.ts';
import { ALL, NONE } from '../explore/visitor-sets.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import { valuesIn, walk, type Condition } from '../model/condition.ts';
import type { Page, Site } from '../model/site.ts';
import { decodePathText } from '../address/canonical-path.ts';
import { literalOf } from '../model/pattern.ts';
import type { Visitor } from '../model/visitor.ts';

/** Visitors to all of whom the same happens, at each of some pages. */
export interface Kind {
  readonly visitors: number;
  /** One of them, as plain as can be. */
  readonly example: Visitor;
  /** How many of the pages they reach. */
  readonly pages: number;
}

/** The kinds of visitors that rules tell apart. */
export interface Kinds {
  readonly kinds: readonly Kind[];
  /** Those who are of none of them. */
  readonly others: number;
  /**
   * Whether everyone is of one of them. If not there are too many kinds, and these are of the visitors who have at
   * most so many roles, groups, purchases and other traits.
   */
  readonly mostTraits: number | null;
}

/** More than these nobody reads. */
const MOST_KINDS = 60;
/** Visitors with more traits at a time are no plain ones. */
const MOST_TRAITS = 2;

/**
 * The smallest list of kinds of visitors that the rules tell apart, at the addresses that the grid visits: two
 * visitors are of one kind if their visits end alike at every page.
 *
 * @param pages those that count
 * @throws TooManyCases where there are too many kinds even of visitors with one trait
 */
export function kindsOf(explorer: Explorer, pages: readonly Page[]): Kinds {
  const { atoms } = explorer;
  const { ends, reaching, single } = setsByEnd(explorer, pages);
  const all = atoms.sets.and(atoms.meaningful(), nobodyOfExamples(explorer, single));
  const among = (some: number, mostTraits: number | null): Kinds | null => {
    const kinds = divided(explorer, some, ends);
    const others = atoms.sets.not(some);
    return kinds && { kinds: told(explorer, kinds, reaching), others, mostTraits };
  };
  const whole = among(all, null);
  if (whole !== null) return whole;
  for (let traits = MOST_TRAITS; traits > 0; traits--) {
    const some = among(atoms.sets.and(all, atoms.withAtMost(traits)), traits);
    if (some !== null) return some;
  }
  throw new TooManyCases();
}

/**
 * Whoever has an address of their own among many is told from others at that address alone, of which the example is one.
 *
 * @param single addresses that are not examples of others
 */
function nobodyOfExamples({ atoms, prepared }: Explorer, single: readonly string[]): number {
  const named = new Set(single.flatMap((path) => path.split('/').map(decodePathText)));
  for (const condition of conditionsOf(prepared.site)) {
    walk(condition, (inner) => {
      if (inner.is === 'person') named.add(inner.name);
    });
    for (const value of valuesIn(condition)) if (value.is === 'string') named.add(value.value);
  }
  return atoms.without((one) => one.is === 'person' && !named.has(one.name));
}

/** All that rules about pages ask of visitors. */
const conditionsOf = (site: Site): Condition[] =>
  [
    ...Object.values(site.audiences),
    ...site.gates.flatMap(({ admit, otherwise }) => [admit, ...otherwise.map(({ who }) => who)]),
    ...site.pages.map(({ missingUnless }) => missingUnless),
    ...[...site.redirects, ...site.rewrites].map(({ when }) => when),
    site.fullAccess,
  ].filter((one) => one !== null);

/**
 * The sets of visitors for whom visits to a page end alike, of all pages, each once; and how many pages each set of
 * visitors reaches.
 */
function setsByEnd(
  explorer: Explorer,
  pages: readonly Page[],
): {
  readonly ends: readonly number[];
  readonly reaching: ReadonlyMap<number, number>;
  /** The addresses that are no examples of others. */
  readonly single: readonly string[];
} {
  const { atoms } = explorer;
  const single: string[] = [];
  const found = new Set<number>();
  const reaching = new Map<number, number>();
  /** @param isSingle the address is no example of others */
  const divide = (example: string, isSingle: boolean): void => {
    const parts = explorer.partsOf(example);
    // Where it leads, and what is served there, may be the address of a person too.
    const hops = isSingle ? parts.flatMap(({ end }) => end.hops) : [];
    const served = hops.flatMap(({ address, decision }) => [
      address,
      ...decision.reasons.flatMap((one) => (one.code === 'rewritten' ? [one.values.location] : [])),
    ]);
    single.push(...served.map((address) => address.replace(/\?.*/, '')));
    const byEnd = new Map<string, number>();
    for (const { visitors, end } of parts) {
      const key = `${end.outcome} ${end.status} ${end.final}`;
      byEnd.set(key, atoms.sets.or(byEnd.get(key) ?? NONE, visitors));
    }
    // Whoever is in no other set is in the first: it divides nothing further.
    for (const visitors of [...byEnd.values()].slice(1)) found.add(visitors);
  };
  for (const page of pages) {
    const isLiteral = literalOf(page.pattern) !== null;
    divide(page.example, isLiteral);
    const visitors = explorer.visitorsOf(
      explorer.partsOf(page.example),
      ({ end }) => end.outcome === 'reach',
    );
    reaching.set(visitors, (reaching.get(visitors) ?? 0) + 1);
    if (isLiteral) continue;
    for (const { example, pieces } of explorer.familiesOf(page)) divide(example, pieces.size === 0);
  }
  return { ends: [...found].filter((visitors) => visitors !== ALL), reaching, single };
}

/** Divides visitors as sets do; null where that makes too many kinds. */
function divided({ atoms }: Explorer, all: number, sets: readonly number[]): number[] | null {
  let kinds = [all];
  for (const set of sets) {
    kinds = kinds.flatMap((kind) =>
      [atoms.sets.and(kind, set), atoms.sets.without(kind, set)].filter((one) => one !== NONE),
    );
    if (kinds.length > MOST_KINDS) return null;
  }
  return kinds;
}

function told(
  explorer: Explorer,
  kinds: readonly number[],
  reaching: ReadonlyMap<number, number>,
): Kind[] {
  const { atoms, prepared, at } = explorer;
  return kinds
    .flatMap((visitors): (Kind & { cost: number })[] => {
      const found = exampleVisitor(atoms, visitors, familyOf('/'), prepared.names, at);
      if (found === null) return [];
      const pages = [...reaching].reduce(
        (sum, [set, count]) => sum + (atoms.sets.and(set, visitors) === NONE ? 0 : count),
        0,
      );
      return [{ visitors, example: found.visitor, pages, cost: found.cost }];
    })
    .sort((a, b) => a.cost - b.cost || a.pages - b.pages)
    .map(({ visitors, example, pages }) => ({ visitors, example, pages }));
}
