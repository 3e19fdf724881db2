import type { Message } from '@kleidon/api';
import type { decisions } from '@kleidon/core';

/** A grid as the service sends it, with a cell for each page and visitor; cells that are the same are shared. */
export function unpackGrid({ rows, ...grid }: Message<'Grid'>): decisions.Grid {
  return {
    ...grid,
    rows: rows.map(({ cells: kinds, cellOf, ...row }) => {
      // Without a prototype, because a visitor may have any name.
      const cells = Object.create(null) as Record<string, decisions.Cell>;
      grid.visitors.forEach(({ name }, i) => (cells[name] = kinds[cellOf[i]!]!));
      return { ...row, cells };
    }),
  };
}
