import { NO_LINES } from './no-lines.ts';
import Table from 'cli-table3';
import { countPages, FULL_ACCESS, OUTCOME_WORDS, tally } from '@kleidon/client';
import { decisions } from '@kleidon/core';
import { bold, count, dim, paint } from './style.ts';

const TITLE_WIDTH = 24;
const LEAST_ADDRESS = 18;
const GAP = 2;

/**
 * The grid as a table that fits the terminal: pages as a tree, a sign for each outcome, a legend. Where the
 * visitors don't fit side by side, they follow in bands one beneath the other.
 *
 * @param width columns of the terminal; null prints everything in one band
 */
export function printGrid(grid: decisions.Grid, width: number | null): string {
  if (grid.rows.length === 0)
    return 'No page fits. Ask for fewer filters, or add pages to the site file.';
  const depths = depthsOf(grid.rows);
  const labels = grid.rows.map((row, i) => '  '.repeat(depths[i]!) + shortAddress(row));
  const longest = Math.max(...labels.map(({ length }) => length), 'page'.length);
  const room = width ?? Infinity;
  const columns = grid.visitors.map(({ name }) => Math.max(name.length, 3) + GAP);
  const needed = longest + GAP + sum(columns);
  const titles = room >= needed + TITLE_WIDTH + GAP;
  const address = Math.max(LEAST_ADDRESS, Math.min(longest, room - sum(columns) - GAP));
  const bands = bandsOf(columns, room - address - GAP);
  const tables = bands.map((band) => printBand(grid, band, labels, address, titles));
  return [heading(grid), ...tables, printLegend(grid)].join('\n\n');
}

function heading({ site, at, rows, visitors }: decisions.Grid): string {
  return `${bold(site)} ${dim(`at ${at}`)}: ${count(countPages(rows), 'page')}, ${count(visitors.length, 'visitor')}`;
}

function printBand(
  grid: decisions.Grid,
  band: readonly number[],
  labels: readonly string[],
  address: number,
  titles: boolean,
): string {
  const visitors = band.map((position) => grid.visitors[position]!);
  const table = new Table({
    head: ['page', ...(titles ? ['title'] : []), ...visitors.map(({ name }) => name)].map((text) =>
      bold(text),
    ),
    colWidths: [
      address + GAP,
      ...(titles ? [TITLE_WIDTH + GAP] : []),
      ...visitors.map(({ name }) => Math.max(name.length, 3) + GAP),
    ],
    chars: NO_LINES,
    style: { 'padding-left': 0, 'padding-right': GAP, head: [], border: [], compact: true },
  });
  grid.rows.forEach((row, i) => {
    const cells = visitors.map(({ name }) => printCell(row.cells[name]!));
    table.push([labels[i]!, ...(titles ? [dim(row.title)] : []), ...cells]);
  });
  const counts = visitors.map(({ name }) => String(tally(grid, name).reach ?? 0));
  table.push([dim('pages reached'), ...(titles ? [''] : []), ...counts]);
  return table
    .toString()
    .split('\n')
    .map((line) => line.trimEnd())
    .join('\n');
}

function printCell({ outcome, fullAccess }: decisions.Cell): string {
  const { sign } = fullAccess ? FULL_ACCESS : OUTCOME_WORDS[outcome];
  return paint[outcome](sign);
}

/** Only what the grid shows is explained, with how many cells show it. */
function printLegend({ rows }: decisions.Grid): string {
  const cells = rows.flatMap((row) => Object.values(row.cells));
  const entries = decisions.OUTCOMES.flatMap((outcome) => {
    const same = cells.filter((cell) => cell.outcome === outcome && !cell.fullAccess);
    return same.length === 0
      ? []
      : [
          [
            paint[outcome](OUTCOME_WORDS[outcome].sign),
            OUTCOME_WORDS[outcome],
            same.length,
          ] as const,
        ];
  });
  const byFullAccess = cells.filter(({ fullAccess }) => fullAccess).length;
  const full =
    byFullAccess === 0 ? [] : [[paint.reach(FULL_ACCESS.sign), FULL_ACCESS, byFullAccess] as const];
  return [...entries, ...full]
    .map(
      ([sign, { word, meaning }, number]) =>
        `${sign} ${word.padEnd(11)} ${meaning} ${dim(`(${number})`)}`,
    )
    .join('\n');
}

function depthsOf(rows: readonly decisions.Row[]): number[] {
  const depths = new Map<string, number>();
  return rows.map(({ address, parent }) => {
    const depth = parent === null ? 0 : (depths.get(parent) ?? -1) + 1;
    depths.set(address, depth);
    return depth;
  });
}

function shortAddress({ address, parent }: decisions.Row): string {
  return parent === null ? address : address.slice(parent.length);
}

function bandsOf(columns: readonly number[], room: number): number[][] {
  const bands: number[][] = [];
  let used = 0;
  columns.forEach((width, position) => {
    if (bands.length === 0 || used + width > room) {
      bands.push([]);
      used = 0;
    }
    bands.at(-1)!.push(position);
    used += width;
  });
  return bands;
}

const sum = (numbers: readonly number[]): number =>
  numbers.reduce((total, number) => total + number, 0);
