import type { decisions } from '@kleidon/core';

/** What is asked of the grid besides its pages and visitors. */
export interface RowFilter {
  readonly text: string;
  readonly under: string;
  readonly outcomes: readonly string[];
  /** Only rows where not the same happens to all visitors. */
  readonly differ: boolean;
  /** The addresses of pages whose subpages are folded away. */
  readonly folded: ReadonlySet<string>;
}

/** A row as it is shown: how deep in the tree, and whether pages beneath it could be folded away. */
export interface ShownRow {
  readonly row: decisions.Row;
  readonly depth: number;
  readonly label: string;
  readonly isParent: boolean;
  readonly isFolded: boolean;
}

/** The rows that a filter leaves, as a tree; the pages above a match stay, so that its place can be seen. */
export function shownRows(
  { rows, visitors }: decisions.Grid,
  { text, under, outcomes, differ, folded }: RowFilter,
): ShownRow[] {
  const wanted = text.toLowerCase();
  const isMatch = ({ address, title, cells }: decisions.Row): boolean =>
    (wanted === '' ||
      address.toLowerCase().includes(wanted) ||
      title.toLowerCase().includes(wanted)) &&
    (under === '' || address === under || address.startsWith(under === '/' ? '/' : `${under}/`)) &&
    (outcomes.length === 0 ||
      visitors.some(({ name }) => outcomes.includes(cells[name]!.outcome))) &&
    (!differ || visitors.some(({ name }) => !isSame(cells[name]!, cells[visitors[0]!.name]!)));

  const parentOf = new Map(rows.map(({ address, parent }) => [address, parent]));
  const inView = new Set<string>();
  for (const row of rows) {
    if (!isMatch(row)) continue;
    for (
      let at: string | null = row.address;
      at !== null && !inView.has(at);
      at = parentOf.get(at) ?? null
    )
      inView.add(at);
  }
  const parents = new Set(
    rows.filter(({ address }) => inView.has(address)).map(({ parent }) => parent),
  );

  const shown: ShownRow[] = [];
  const depths = new Map<string, number>();
  const hidden = new Set<string>();
  for (const row of rows) {
    const { address, parent } = row;
    if (!inView.has(address)) continue;
    depths.set(address, parent === null ? 0 : depths.get(parent)! + 1);
    if (parent !== null && (hidden.has(parent) || folded.has(parent))) {
      hidden.add(address);
      continue;
    }
    shown.push({
      row,
      depth: depths.get(address)!,
      label: parent === null ? address : address.slice(parent.length),
      isParent: parents.has(address),
      isFolded: folded.has(address),
    });
  }
  return shown;
}

/** A grid with only some of its visitors; with all where none is named that it has. */
export function forVisitors(grid: decisions.Grid, names: readonly string[]): decisions.Grid {
  const visitors = grid.visitors.filter(({ name }) => names.includes(name));
  return visitors.length === 0 ? grid : { ...grid, visitors };
}

const isSame = (one: decisions.Cell, other: decisions.Cell): boolean =>
  one.outcome === other.outcome && one.status === other.status && one.final === other.final;

/** The sections of a site: pages that have others beneath them. */
export function sectionsOf({ rows }: decisions.Grid): string[] {
  return [...new Set(rows.flatMap(({ parent }) => parent ?? []))];
}

/** The outcomes that occur in a grid, with how often. */
export function occurring({ rows, visitors }: decisions.Grid): Map<decisions.Outcome, number> {
  const counts = new Map<decisions.Outcome, number>();
  for (const { cells } of rows) {
    for (const { name } of visitors) {
      const { outcome } = cells[name]!;
      counts.set(outcome, (counts.get(outcome) ?? 0) + 1);
    }
  }
  return counts;
}
