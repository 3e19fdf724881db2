import { clsx } from 'clsx';
import { memo } from 'react';
import { FULL_ACCESS, OUTCOME_WORDS } from '@kleidon/client';
import type { decisions } from '@kleidon/core';
import outcomes from '../style/outcomes.module.css';
import css from './reach-grid.module.css';
import type { ShownRow } from './rows.ts';

/** In pixels. */
export const ROW = 26;
export const COLUMN = 92;

interface Props {
  readonly id: string;
  readonly index: number;
  readonly top: number;
  readonly width: number;
  /** How wide the column of pages is. */
  readonly pages: number;
  readonly shown: ShownRow;
  readonly visitors: decisions.Grid['visitors'];
  /** The visitors in view. */
  readonly first: number;
  readonly last: number;
  /** The column of the active cell, -1 for the page itself; null where the row has none. */
  readonly here: number | null;
  /** What was clicked: a row, and a column as in `here`. */
  act(index: number, column: number): void;
}

/** A page against the visitors in view; drawn anew only where something about it differs, for scrolling to be smooth. */
export const GridRow = memo(function GridRow({
  id,
  index,
  top,
  width,
  pages,
  shown: { row, depth, label, isParent, isFolded },
  visitors,
  first,
  last,
  here,
  act,
}: Props) {
  const { address, title, cells } = row;
  return (
    <div
      role="row"
      aria-rowindex={index + 2}
      aria-level={depth + 1}
      {...(isParent ? { 'aria-expanded': !isFolded } : {})}
      className={clsx(css.row, here !== null && css.here)}
      style={{ height: ROW, width, top }}
    >
      <div
        role="rowheader"
        aria-colindex={1}
        className={css.pageName}
        style={{ width: pages, paddingInlineStart: 8 + depth * 16 }}
        id={`${id}-${index}--1`}
        data-here={here === -1}
        title={`${address}: ${title}`}
        onClick={() => act(index, -1)}
      >
        <span className={css.fold} aria-hidden>
          {isParent ? (isFolded ? '▸' : '▾') : ''}
        </span>
        <span className={css.address}>{label}</span>
        <span className={css.title}>{title}</span>
      </div>
      {visitors.slice(first, last + 1).map((visitor, i) => (
        <ReachCell
          key={visitor.name}
          id={`${id}-${index}-${first + i}`}
          cell={cells[visitor.name]!}
          label={`${visitor.title}, ${address}`}
          row={index}
          column={first + i}
          left={pages + (first + i) * COLUMN}
          isHere={here === first + i}
          act={act}
        />
      ))}
    </div>
  );
});

interface CellProps {
  readonly id: string;
  readonly cell: decisions.Cell;
  readonly label: string;
  readonly row: number;
  readonly column: number;
  readonly left: number;
  readonly isHere: boolean;
  act(row: number, column: number): void;
}

function ReachCell({
  id,
  cell: { outcome, status, final, hops, fullAccess },
  label,
  row,
  column,
  left,
  isHere,
  act,
}: CellProps) {
  const words = fullAccess ? FULL_ACCESS : OUTCOME_WORDS[outcome];
  const redirects = hops === 0 ? '' : `, after ${hops} redirect${hops === 1 ? '' : 's'}`;
  return (
    <div
      role="gridcell"
      aria-colindex={column + 2}
      aria-selected={isHere}
      aria-label={`${label}: ${words.word}, ${status}`}
      className={clsx(css.cell, outcomes[outcome])}
      style={{ left, width: COLUMN }}
      id={id}
      data-here={isHere}
      title={`${label}\n${words.word}: ${words.meaning}\n${status} at ${final}${redirects}`}
      onClick={() => act(row, column)}
    >
      <span className={css.sign} aria-hidden>
        {words.sign}
      </span>
      <span>{words === FULL_ACCESS ? 'full' : words.word}</span>
    </div>
  );
}
