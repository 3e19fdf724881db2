import { printCondition } from '../condition/print.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import {
  comparedStates,
  visitDifferences,
  type Difference,
  type Gain,
  type VisitDifference,
} from '../comparison/compare-states.ts';
import {
  landingDifferences,
  listingDifferences,
  menuDifferences,
  partDifferences,
} from '../comparison/other-differences.ts';
import type { EntryChange, RuleChange } from '../comparison/rule-changes.ts';
import { redirectsTo } from '../comparison/redirects-to.ts';
import { pageAt } from '../decision/page-at.ts';
import { normalizePath } from '../address/tidy.ts';
import { exampleVisitor } from '../explore/example-visitor.ts';
import { familyOf } from '../explore/families.ts';
import { NONE } from '../explore/visitor-sets.ts';
import type { Outcome } from '../model/outcome.ts';
import type { Right } from '../model/site.ts';
import { printInstant } from '../time/instant.ts';
import { redirectsOf, type VisitEnd } from '../visit/visit.ts';
import { describeCondition, productTitles } from '../wording/condition.ts';
import { nameOfChange, summaryOfChange } from '../wording/comparison.ts';
import { printScope } from '../wording/reason.ts';
import { declaredVisitor } from '../explore/declared-visitor.ts';
import { settled } from './who-reaches.ts';

/** How a visit ends in one of two states. */
export interface ComparedEnd {
  readonly outcome: Outcome;
  readonly status: number;
  readonly final: string;
  readonly hops: number;
  readonly fullAccess: boolean;
}

/** What two states of a site differ in for some visitors. */
export interface ListedDifference {
  readonly kind: DifferenceKind;
  /** An address as the site file has it, the name of a part, a menu with its link, or a moment to land. */
  readonly about: string;
  readonly title: string;
  /** Whether it is viewed or changed. */
  readonly right: Right;
  /** The rules that cut these addresses out of a page; none for all of it. */
  readonly within: readonly string[];
  /** One of the addresses; null where there is none. */
  readonly example: string | null;
  /** The other addresses of the page and the redirects that take people here, of whom it is so as well. */
  readonly through: readonly string[];
  /** From which moment on it is so; null where it is so from the moment of the comparison on. */
  readonly from: string | null;
  readonly is: Gain;
  /** Exactly for whom it is so, as a condition and in words. */
  readonly condition: string;
  readonly words: string;
  /** The visitors of the site file who are among them. */
  readonly visitors: readonly string[];
  readonly before: ComparedEnd | null;
  readonly after: ComparedEnd | null;
  /** A visit that differs, as plain as can be. */
  readonly witness: ComparedWitness | null;
  /** The changes that are the cause, by their place in the list of changes, from 0. */
  readonly causes: readonly number[];
}

export type DifferenceKind =
  | 'page'
  | 'other-address'
  | 'redirect'
  | 'elsewhere'
  | 'landing'
  | 'part'
  | 'menu-link'
  | 'search-engines';

/** A visit that can be made in both states. */
export interface ComparedWitness {
  /** As a site file and a request declare one. */
  readonly visitor: Readonly<Record<string, unknown>>;
  readonly summary: string;
  readonly method: string;
  readonly address: string;
  readonly at: string;
}

/** An entry of the site file that differs, and what that does. */
export interface ListedChange {
  readonly section: RuleChange['section'];
  readonly name: string;
  readonly is: RuleChange['is'];
  /** What it is, as in `gate crew-room`. */
  readonly rule: string;
  readonly lineBefore: number | null;
  readonly lineAfter: number | null;
  /** How many differences it is a cause of; none for a change that changes nothing for anyone. */
  readonly differences: number;
  /** What it does, in a few words for each kind of visitors. */
  readonly summary: readonly string[];
}

/** Everything in which two states of a site differ, for every visitor there could be. */
export interface Comparison {
  readonly at: string;
  readonly timeZone: string;
  /** In how many stretches of time they were compared. */
  readonly stretches: number;
  /** The first date that was not looked at any more; null where all were. */
  readonly notFrom: string | null;
  readonly changes: readonly ListedChange[];
  readonly differences: readonly ListedDifference[];
}

/**
 * Compares two states of a site: who gains what, and who loses it.
 *
 * @param at the moment from which on they are compared, in milliseconds since 1970
 * @throws QuestionError where there are more cases than can be told apart
 */
export function compareSites(before: PreparedSite, after: PreparedSite, at: number): Comparison {
  return settled(() => {
    const states = comparedStates(before, after, at);
    const listing = new Listing(before, after, at, states.changes);
    const differences = [
      ...visitDifferences(states).map((one) => listing.visit(one)),
      ...landingDifferences(states).map((one) =>
        listing.other(one, 'landing', `after ${one.after}`, {
          example: one.now.go,
          before: inShort(one.was),
          after: inShort(one.now),
        }),
      ),
      ...partDifferences(states).map((one) => listing.other(one, 'part', one.part!)),
      ...menuDifferences(states).map((one) =>
        listing.other(one, 'menu-link', `${one.link!.menu}: ${one.link!.address}`, {
          example: one.link!.address,
        }),
      ),
      ...listingDifferences(states).map((one) => listing.engines(one)),
    ];
    return {
      at: printInstant(at),
      timeZone: after.site.timeZone,
      stretches: states.moments.length,
      notFrom: states.notFrom === null ? null : printInstant(states.notFrom),
      changes: states.changes.map((change, i) => listed(change, i, differences)),
      differences,
    };
  });
}

/** Writes differences down. */
class Listing {
  private readonly positions: ReadonlyMap<EntryChange, number>;

  private readonly redirects: (path: string) => readonly string[];

  constructor(
    private readonly before: PreparedSite,
    private readonly after: PreparedSite,
    private readonly at: number,
    changes: readonly EntryChange[],
  ) {
    this.redirects = redirectsTo(after.site);
    this.positions = new Map(changes.map((change, i) => [change, i]));
  }

  visit(one: VisitDifference): ListedDifference {
    const { place, right, explorer, visitors } = one;
    const { family, origin } = place;
    const method = right === 'view' ? 'GET' : 'POST';
    const found = exampleVisitor(explorer.atoms, visitors, family, this.after.names, explorer.at);
    return {
      kind: place.is,
      about: place.address,
      title: place.title,
      right,
      within: family.within.map(printScope),
      example: origin + family.example,
      through:
        place.is === 'page' && family.pieces.size === 0 ? this.leadingTo(family.example) : [],
      from: explorer.at === this.at ? null : printInstant(explorer.at),
      ...this.who(one),
      before: endOf(one.before),
      after: endOf(one.after),
      witness: found && {
        visitor: declaredVisitor(found.visitor),
        summary: found.visitor.summary,
        method,
        address: origin + found.address,
        at: printInstant(explorer.at),
      },
    };
  }

  other(
    one: Difference,
    kind: DifferenceKind,
    about: string,
    more: Partial<ListedDifference> = {},
  ): ListedDifference {
    const { atoms } = one.explorer;
    const found = exampleVisitor(atoms, one.visitors, familyOf('/'), this.after.names, this.at);
    const { example = null } = more;
    return {
      kind,
      about,
      title: '',
      right: 'view',
      within: [],
      example,
      through: [],
      from: null,
      ...this.who(one),
      before: null,
      after: null,
      witness: found && {
        visitor: declaredVisitor(found.visitor),
        summary: found.visitor.summary,
        method: 'GET',
        address: example ?? '/',
        at: printInstant(this.at),
      },
      ...more,
    };
  }

  engines({
    address,
    isListed,
    causes,
  }: {
    readonly address: string;
    readonly isListed: boolean;
    readonly causes: readonly EntryChange[];
  }): ListedDifference {
    return {
      kind: 'search-engines',
      about: address,
      title: '',
      right: 'view',
      within: [],
      example: address,
      through: [],
      from: null,
      is: isListed ? 'gains' : 'loses',
      condition: 'guest',
      words: 'search engines',
      visitors: [],
      before: null,
      after: null,
      witness: null,
      causes: this.places(causes),
    };
  }

  private leadingTo(example: string): string[] {
    const path = normalizePath(example, this.after.site.tidy);
    const aliases = pageAt(this.after, example)?.rule.page.aliases ?? [];
    return [...new Set([...aliases, ...this.redirects(path)])];
  }

  private who({
    is,
    visitors,
    explorer,
    causes,
  }: Difference): Pick<ListedDifference, 'is' | 'condition' | 'words' | 'visitors' | 'causes'> {
    const { products, visitors: listed } = this.after.site;
    const who = explorer.describe(visitors)!;
    return {
      is,
      condition: printCondition(who.condition),
      words: describeCondition(who, productTitles({ ...this.before.site.products, ...products })),
      visitors: listed
        .filter((one) => explorer.atoms.knowing(visitors, one, explorer.at) !== NONE)
        .map(({ name }) => name),
      causes: this.places(causes),
    };
  }

  private places(causes: readonly EntryChange[]): number[] {
    return causes.map((one) => this.positions.get(one)!).sort((a, b) => a - b);
  }
}

const endOf = (end: VisitEnd): ComparedEnd => ({
  outcome: end.outcome,
  status: end.status,
  final: end.final,
  hops: redirectsOf(end),
  fullAccess: end.fullAccess,
});

const inShort = ({ outcome, final }: { outcome: Outcome; final: string }): ComparedEnd => ({
  outcome,
  status: 200,
  final,
  hops: 0,
  fullAccess: false,
});

function listed(
  { section, name, is, before, after }: EntryChange,
  position: number,
  differences: readonly ListedDifference[],
): ListedChange {
  const own = differences.filter(({ causes }) => causes.includes(position));
  return {
    section,
    name,
    is,
    rule: nameOfChange(section, name),
    lineBefore: before?.line ?? null,
    lineAfter: after?.line ?? null,
    differences: own.length,
    summary: summaryOfChange(own),
  };
}
