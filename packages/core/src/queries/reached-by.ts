import { grid, type Cell } from '../grid/grid.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import type { Visitor } from '../model/visitor.ts';

/** Everything that one visitor reaches, and where everything else leaves them. */
export interface ReachedBy {
  readonly visitor: string;
  readonly title: string;
  readonly summary: string;
  readonly at: string;
  readonly reached: readonly ({ readonly address: string; readonly title: string } & Cell)[];
  readonly others: readonly ({ readonly address: string; readonly title: string } & Cell)[];
}

/**
 * Visits every page of a site as one visitor.
 *
 * @param at the moment, in milliseconds since 1970
 */
export function reachedBy(prepared: PreparedSite, visitor: Visitor, at: number): ReachedBy {
  const { rows, at: moment } = grid(prepared, [visitor], at);
  const pages = rows.map(({ address, title, cells }) => ({
    address,
    title,
    ...cells[visitor.name]!,
  }));
  return {
    visitor: visitor.name,
    title: visitor.title,
    summary: visitor.summary,
    at: moment,
    reached: pages.filter(({ outcome }) => outcome === 'reach'),
    others: pages.filter(({ outcome }) => outcome !== 'reach'),
  };
}
