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
  readonly pagesAdded: readonly string[];
  readonly pagesRemoved: readonly string[];
  readonly visitorsAdded: readonly string[];
  readonly visitorsRemoved: readonly string[];
}

/** Tells in which cells two grids differ: outcome, status, final address or number of hops. */
export function compareGrids(before: Grid, after: Grid): GridChange {
  const rows = new Map(before.rows.map((row) => [row.address, row]));
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
        .filter((visitor) => differ(was.cells[visitor]!, is.cells[visitor]!))
        .map((visitor) => ({
          address: is.address,
          title: is.title,
          visitor,
          before: was.cells[visitor]!,
          after: is.cells[visitor]!,
        })),
    ),
    pagesAdded: after.rows.map(({ address }) => address).filter((address) => !rows.has(address)),
    pagesRemoved: before.rows.map(({ address }) => address).filter((address) => !now.has(address)),
    visitorsAdded: namesOf(after).filter((name) => !namesOf(before).includes(name)),
    visitorsRemoved: namesOf(before).filter((name) => !namesOf(after).includes(name)),
  };
}

const namesOf = ({ visitors }: Grid): string[] => visitors.map(({ name }) => name);

const differ = (one: Cell, other: Cell): boolean =>
  one.outcome !== other.outcome ||
  one.status !== other.status ||
  one.final !== other.final ||
  one.hops !== other.hops ||
  one.fullAccess !== other.fullAccess;
