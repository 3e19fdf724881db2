import Table from 'cli-table3';
import { NO_LINES } from './no-lines.ts';

/** Rows beneath a head, without lines and without spaces at the ends. */
export function plainTable(
  head: readonly string[],
  rows: readonly (readonly (string | number)[])[],
  alignment: readonly ('left' | 'right')[] = [],
): string {
  const table = new Table({
    head: [...head],
    chars: NO_LINES,
    style: { head: [], border: [], compact: true, 'padding-left': 0, 'padding-right': 2 },
    colAligns: [...alignment],
  });
  table.push(...rows.map((row) => [...row]));
  return table.toString().replace(/ +$/gm, '');
}
