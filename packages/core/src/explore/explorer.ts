import type { Request } from '../decision/decision.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import type { ReadableCondition } from '../model/clause.ts';
import type { Page, Scope } from '../model/site.ts';
import {
  endOf,
  formOf,
  leadsToSamePath,
  MAX_REDIRECTS,
  nextRequest,
  type Hop,
  type Outcome,
} from '../visit/visit.ts';
import { withBudget } from '../pattern/language.ts';
import { Atoms } from './atoms.ts';
import type { Part } from './part.ts';
import { decideForAll, type Decided } from './decide-for-all.ts';
import { addressesOfPage, type AddressSet } from './address-set.ts';
import { familiesOf, type Explored, type Family } from './families.ts';
import { shortest } from './shortest.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import { Recent } from '../decision/recent.ts';
import { ALL, NONE } from './visitor-sets.ts';

/** How visits end that get somewhere. */
export const ARRIVED: readonly Outcome[] = ['reach', 'away'];

/** A hostile site file could double the parts with each redirect. */
const MOST_PARTS = 5_000;

/** So many addresses take some hundred megabytes. */
const MOST_KEPT = 20_000;
const LONGEST_KEPT = 8_000;

/** Of work on the addresses of one pattern: some seconds. */
const BUDGET = 200_000;

/** What is asked of a page: to view it, and to change it. */
const METHODS = ['GET', 'POST'];

/** Explores a site at a moment, and keeps what was found last; all answers share their sets of visitors. */
export class Explorer {
  private readonly known = new Recent<readonly Part[]>(MOST_KEPT, LONGEST_KEPT);
  private readonly decided = new Recent<readonly Decided[]>(MOST_KEPT, LONGEST_KEPT);
  private readonly families = new Map<Page, readonly Family[]>();
  private readonly explorers = new Map<Family, Explorer>();
  private readonly described = new Map<string, ReadableCondition>();

  /**
   * @param at the moment, in milliseconds since 1970
   */
  constructor(
    readonly prepared: PreparedSite,
    readonly at: number,
    readonly atoms = new Atoms(prepared.names),
  ) {}

  /** How a request ends for every possible visitor. */
  partsOf(address: string, method = 'GET'): readonly Part[] {
    const key = `${method} ${address}`;
    let parts = this.known.get(key);
    if (!parts) this.known.add(key, (parts = this.follow({ method, address })));
    return parts;
  }

  /** How a request is decided for every possible visitor, without what follows from it; found anew each time. */
  decideForAll(request: Request): Decided[] {
    return [...decideForAll(this.prepared, this.atoms, request, this.at)];
  }

  /** Whether some visitor without full access gets an address itself, by the first way that is tried; false says nothing. */
  isPlainlyReached(address: string): boolean {
    const [first] = decideForAll(this.prepared, this.atoms, { method: 'GET', address }, this.at);
    if (!first || first.visitors === NONE) return false;
    const { outcome, location, fullAccess } = first.decision;
    return outcome === 'reach' && location === null && !fullAccess;
  }

  /** The same for an address that any query may follow, as the ends of visits that go no further. */
  endsWithAnyQuery(address: string, method: string): Part[] {
    const { prepared, atoms, at } = this;
    const ends: Part[] = [];
    const seen = new Set<string>();
    for (let next: string | null = address; next !== null && !seen.has(next);) {
      const request: Request = { method, address: next };
      seen.add(next);
      next = null;
      for (const { visitors, decision } of decideForAll(prepared, atoms, request, at, true)) {
        if (decision.location === null)
          ends.push({ visitors, end: endOf(prepared, [{ address: request.address, decision }]) });
        else if (decision.reasons.some(leadsToSamePath))
          next = nextRequest(prepared, request, decision)?.address ?? next;
      }
    }
    return ends;
  }

  /** Follows all visitors from a request to where their visits end. */
  private follow(request: Request): Part[] {
    const { prepared, atoms } = this;
    const parts: Part[] = [];
    const walk = (
      from: Request,
      visitors: number,
      before: readonly Hop[],
      seen: readonly string[],
    ): void => {
      // What is decided at the first address is a part of what is kept for it.
      const decided = before.length === 0 ? this.decideForAll(from) : this.decisionsAt(from);
      for (const one of decided) {
        const those = atoms.sets.and(visitors, one.visitors);
        if (!atoms.isAnyone(those)) continue;
        const hops = [...before, { address: from.address, decision: one.decision }];
        const next = nextRequest(prepared, from, one.decision);
        const forms = next === null ? seen : [...seen, formOf(prepared, from)];
        const isLoop =
          next !== null && (forms.includes(formOf(prepared, next)) || hops.length > MAX_REDIRECTS);
        if (next !== null && !isLoop) walk(next, those, hops, forms);
        else
          parts.push({ visitors: those, end: endOf(prepared, hops, isLoop ? next.address : null) });
        if (parts.length > MOST_PARTS) throw new TooManyCases();
      }
    };
    walk(request, ALL, [], []);
    return parts;
  }

  private decisionsAt(request: Request): readonly Decided[] {
    const key = `${request.method} ${request.address}`;
    let decided = this.decided.get(key);
    if (!decided) this.decided.add(key, (decided = this.decideForAll(request)));
    return decided;
  }

  /** The families of addresses of a page; found once for each page. */
  familiesOf(page: Page): readonly Family[] {
    let families = this.families.get(page);
    if (!families) {
      families = this.familiesAmong(addressesOfPage(this.prepared, page));
      this.families.set(page, families);
    }
    return families;
  }

  /**
   * The families of some addresses; found anew each time.
   *
   * @param others rules that cut them besides those of the site
   * @param around protocol and host before the path, where they are of another host, and a query after it
   * @param besides explorers of other moments and states, for which the families are to be told apart as well
   */
  familiesAmong(
    addresses: AddressSet,
    others: readonly Scope[] = [],
    [before, after]: readonly [before: string, after: string] = ['', ''],
    besides: readonly Explorer[] = [],
  ): readonly Family[] {
    const all = [this, ...besides];
    const explored = (family: Family): Explored[] =>
      all.map((one) => ({
        prepared: one.prepared,
        parts: METHODS.flatMap((method) =>
          one.within(family).partsOf(before + family.example + after, method),
        ),
      }));
    const states = [...new Set(all.map(({ prepared }) => prepared))];
    return withBudget(BUDGET, () => familiesOf(states, addresses, explored, others));
  }

  /** The same; null where other rules cut out more of them than could be told apart. */
  knownFamiliesOf(page: Page): readonly Family[] | null {
    try {
      return this.familiesOf(page);
    } catch (error) {
      if (error instanceof TooManyCases) return null;
      throw error;
    }
  }

  /** Explores addresses with pieces that may be anything which the family allows. */
  within(family: Family): Explorer {
    if (family.pieces.size === 0) return this;
    let explorer = this.explorers.get(family);
    if (!explorer) {
      const { prepared, at } = this;
      explorer = new Explorer(prepared, at, new Atoms(prepared.names, family.pieces));
      this.explorers.set(family, explorer);
    }
    return explorer;
  }

  /** Those for whom some of the parts are. */
  visitorsOf(parts: readonly Part[], isOne: (part: Part) => boolean): number {
    return this.atoms.sets.anyOf(parts.filter(isOne).map(({ visitors }) => visitors));
  }

  /** Those who do not get anywhere by a request. */
  lostAt(address: string): number {
    return this.visitorsOf(this.partsOf(address), ({ end }) => !ARRIVED.includes(end.outcome));
  }

  /**
   * Some visitors as a condition; null where there can be nobody among them.
   *
   * @param free those of whom it does not matter whether they are among them
   */
  describe(visitors: number, free?: number): ReadableCondition | null {
    if (!this.atoms.isAnyone(visitors)) return null;
    const key = `${visitors} ${free}`;
    let said = this.described.get(key);
    if (!said) this.described.set(key, (said = shortest(this.atoms, visitors, free)));
    return said;
  }
}
