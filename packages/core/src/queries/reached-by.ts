import { printCondition } from '../condition/print.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { pathOf } from '../decision/page-at.ts';
import type { Family } from '../explore/families.ts';
import { Explorer } from '../explore/explorer.ts';
import { ALL } from '../explore/visitor-sets.ts';
import { cellOf } from '../grid/cell.ts';
import { grid, type Cell } from '../grid/grid.ts';
import { literalOf } from '../model/pattern.ts';
import type { Page } from '../model/site.ts';
import type { Visitor } from '../model/visitor.ts';
import { printScope } from '../wording/reason.ts';

/** How a visit to a page ends, or to some of the addresses of one that is a pattern. */
export interface ReachedPage extends Cell {
  readonly address: string;
  readonly title: string;
  /** The address that was visited, or one such as it. */
  readonly example: string;
  /** The rules that cut these addresses out of the page; none for the page as a whole. */
  readonly within: readonly string[];
  /** At which of these addresses it is so, as a condition on their pieces; null where it is at all of them. */
  readonly where: string | null;
}

/** Everything that one visitor reaches, and where everything else leaves them. */
export interface ReachedBy {
  readonly visitor: string;
  readonly title: string;
  readonly summary: string;
  readonly at: string;
  readonly reached: readonly ReachedPage[];
  readonly others: readonly ReachedPage[];
}

/**
 * Visits every page of a site as one visitor; of a page that is a pattern, all of its addresses.
 *
 * @param at the moment, in milliseconds since 1970
 */
export function reachedBy(prepared: PreparedSite, visitor: Visitor, at: number): ReachedBy {
  const { rows, at: moment } = grid(prepared, [visitor], at);
  const explorer = new Explorer(prepared, at);
  const declared = new Map(prepared.site.pages.map((page) => [page.address, page]));
  const pages = rows.flatMap(({ address, title, visited, cells }): readonly ReachedPage[] => {
    const page = declared.get(address)!;
    const divided = literalOf(page.pattern) === null ? divide(explorer, page, visitor) : [];
    const cell = cells[visitor.name]!;
    return divided.length > 0
      ? divided
      : [{ address, title, example: visited, within: [], where: null, ...cell }];
  });
  return {
    visitor: visitor.name,
    title: visitor.title,
    summary: visitor.summary,
    at: moment,
    reached: pages.filter(({ outcome }) => outcome === 'reach'),
    others: pages.filter(({ outcome }) => outcome !== 'reach'),
  };
}

/** The ways in which visits to the addresses of a page end; none where there are too many to tell apart. */
function divide(explorer: Explorer, page: Page, visitor: Visitor): ReachedPage[] {
  const found: ReachedPage[] = [];
  const path = pathOf(explorer.prepared, page);
  const hasOwn = ({ has }: Family): boolean => has(path);
  for (const family of explorer.knownFamiliesOf(page) ?? []) {
    const own = explorer.within(family);
    for (const { visitors, end } of own.partsOf(family.example)) {
      const addresses = own.atoms.knowing(visitors, visitor, explorer.at);
      const where = own.describe(addresses);
      if (where === null) continue;
      const isAll = addresses === ALL;
      const one: ReachedPage = {
        address: page.address,
        title: page.title,
        // The page's own example says more to people, where it is one.
        example: isAll && hasOwn(family) ? page.example : family.example,
        within: family.within.map(printScope),
        where: isAll ? null : printCondition(where.condition),
        ...cellOf(end),
      };
      if (one.where !== null || !found.some((other) => endsAlike(one, other))) found.push(one);
    }
  }
  return found;
}

const endsAlike = (one: ReachedPage, other: ReachedPage): boolean =>
  other.where === null &&
  one.outcome === other.outcome &&
  one.status === other.status &&
  one.hops === other.hops &&
  one.fullAccess === other.fullAccess;
