import { addressOf } from '../everywhere/starts.ts';
import { normalizePath } from '../address/tidy.ts';
import {
  detailOf,
  type Difference,
  type Gain,
  type VisitDifference,
} from '../comparison/compare-states.ts';
import type { EntryChange } from '../comparison/entry.ts';
import type { Landed, ListingDifference } from '../comparison/other-differences.ts';
import { howDiffers, type HowDiffers } from '../comparison/how-differs.ts';
import { redirectsTo } from '../comparison/redirects-to.ts';
import { printCondition } from '../condition/print.ts';
import { pageAt } from '../decision/page-at.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import type { Atoms } from '../explore/atoms.ts';
import { declaredVisitor } from '../explore/declared-visitor.ts';
import { exampleVisitor } from '../explore/example-visitor.ts';
import type { Explorer } from '../explore/explorer.ts';
import { familyOf } from '../explore/families.ts';
import { NONE } from '../explore/visitor-sets.ts';
import type { Outcome } from '../model/outcome.ts';
import type { Right } from '../model/site.ts';
import type { Visitor } from '../model/visitor.ts';
import { printInstant } from '../time/instant.ts';
import { followRedirects, redirectsOf, type VisitEnd } from '../visit/visit.ts';
import { describeCondition, productTitles } from '../wording/condition.ts';
import { printScope } from '../wording/reason.ts';

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
  /** In what they differ where outcome and status are the same; null where these tell. */
  readonly how: HowDiffers | null;
  /** A visit that differs, as plain as can be. */
  readonly witness: ComparedWitness | null;
  /** The changes that are the cause, by their place in the list of changes, from 0. */
  readonly causes: readonly number[];
}

export type DifferenceKind =
  | 'page'
  | 'other-address'
  | 'redirect'
  | 'undeclared'
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

type Told = Pick<ListedDifference, 'condition' | 'words' | 'visitors'>;

/** Writes differences down. */
export class Listing {
  private readonly positions: ReadonlyMap<EntryChange, number>;

  private readonly told = new Map<Atoms, Map<string, Told>>();
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
    const { family, origin, query } = place;
    const method = right === 'view' ? 'GET' : 'POST';
    const found = exampleVisitor(explorer.atoms, visitors, family, this.after.names, explorer.at);
    return {
      kind: place.is,
      about: place.address,
      title: place.title,
      right,
      within: family.within.map(printScope),
      example: addressOf(place),
      through:
        place.is === 'page' && family.pieces.size === 0 ? this.leadingTo(family.example) : [],
      from: explorer.at === this.at ? null : printInstant(explorer.at),
      ...this.who(one),
      before: endOf(one.before),
      after: endOf(one.after),
      how: howDiffers(one.before, one.after),
      witness: found && this.witness(one, method, found.visitor, origin + found.address + query),
    };
  }

  /** A visitor and an address that show a difference; null if their visits do not differ after all. */
  private witness(
    { explorer: { at } }: VisitDifference,
    method: string,
    visitor: Visitor,
    address: string,
  ): ListedDifference['witness'] {
    const [was, is] = [this.before, this.after].map((state) =>
      detailOf(followRedirects(state, { method, address }, visitor, at)),
    );
    if (was === is) return null;
    const { summary } = visitor;
    return { visitor: declaredVisitor(visitor), summary, method, address, at: printInstant(at) };
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
      from: one.explorer.at === this.at ? null : printInstant(one.explorer.at),
      ...this.who(one),
      before: null,
      after: null,
      how: null,
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

  engines({ address, isListed, causes }: ListingDifference): ListedDifference {
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
      how: null,
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
    let known = this.told.get(explorer.atoms);
    if (!known) this.told.set(explorer.atoms, (known = new Map<string, Told>()));
    const key = `${visitors} ${explorer.at}`;
    let told = known.get(key);
    if (!told) known.set(key, (told = this.tell(explorer, visitors)));
    return { is, ...told, causes: this.places(causes) };
  }

  /** Most differences are about the same few sets of visitors. */
  private tell(explorer: Explorer, visitors: number): Told {
    const { products, visitors: listed } = this.after.site;
    const who = explorer.describe(visitors)!;
    return {
      condition: printCondition(who.condition),
      words: describeCondition(who, productTitles({ ...this.before.site.products, ...products })),
      visitors: listed
        .filter((one) => explorer.atoms.knowing(visitors, one, explorer.at) !== NONE)
        .map(({ name }) => name),
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

/** What is there after landing. */
export const inShort = ({ outcome, status, final }: Landed): ComparedEnd => ({
  outcome,
  status,
  final,
  hops: 0,
  fullAccess: false,
});
