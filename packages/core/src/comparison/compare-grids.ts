import type { Cell, Grid, Row } from '../grid/grid.ts';

/** What one visitor meets at one page in two states of a site. */
export interface ChangedCell {
  readonly address: string;
  readonly title: string;
  readonly visitor: string;
  readonly before: Cell;
  readonly after: Cell;
}

/** The effect of one state of a site against another, cell by cell. */
export interface GridChange {
  /** The cells that both grids have. */
  readonly compared: number;
  readonly cells: readonly ChangedCell[];
  readonly pagesMoved: readonly { readonly from: string; readonly to: string }[];
  readonly pagesAdded: readonly string[];
  readonly pagesRemoved: readonly string[];
  readonly visitorsAdded: readonly string[];
  readonly visitorsRemoved: readonly string[];
}

/**
 * Tells in which cells two grids differ: outcome, status, final address or number of hops.
 *
 * @param moved the new addresses of pages, by the old; of these the final address is not compared
 */
export function compareGrids(
  before: Grid,
  after: Grid,
  moved: ReadonlyMap<string, string> = new Map(),
): GridChange {
  const rows = new Map(before.rows.map((row) => [moved.get(row.address) ?? row.address, row]));
  const now = new Set(after.rows.map(({ address }) => address));
  const visitors = namesOf(after).filter((name) => namesOf(before).includes(name));
  const pairs = after.rows.flatMap((row): [Row, Row][] => {
    const was = rows.get(row.address);
    return was ? [[was, row]] : [];
  });
  return {
    compared: pairs.length * visitors.length,
    cells: pairs.flatMap(([was, is]) =>
      visitors
        .filter((visitor) =>
          differ(was.cells[visitor]!, is.cells[visitor]!, was.address !== is.address),
        )
        .map((visitor) => ({
          address: is.address,
          title: is.title,
          visitor,
          before: was.cells[visitor]!,
          after: is.cells[visitor]!,
        })),
    ),
    pagesMoved: pairs
      .filter(([was, is]) => was.address !== is.address)
      .map(([was, is]) => ({ from: was.address, to: is.address })),
    pagesAdded: after.rows.map(({ address }) => address).filter((address) => !rows.has(address)),
    pagesRemoved: [...rows].filter(([address]) => !now.has(address)).map(([, row]) => row.address),
    visitorsAdded: namesOf(after).filter((name) => !namesOf(before).includes(name)),
    visitorsRemoved: namesOf(before).filter((name) => !namesOf(after).includes(name)),
  };
}

const namesOf = ({ visitors }: Grid): string[] => visitors.map(({ name }) => name);

const differ = (one: Cell, other: Cell, isMoved: boolean): boolean =>
  one.outcome !== other.outcome ||
  one.status !== other.status ||
  (!isMoved && one.final !== other.final) ||
  one.hops !== other.hops ||
  one.fullAccess !== other.fullAccess;
