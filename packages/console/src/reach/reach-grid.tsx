import { useEffect, useId, useMemo, useRef, useState, type KeyboardEvent } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { OUTCOME_WORDS, tally } from '@kleidon/client';
import type { decisions } from '@kleidon/core';
import { COLUMN, GridRow, ROW } from './grid-row.tsx';
import type { ShownRow } from './rows.ts';
import { useStable } from './use-stable.ts';
import css from './reach-grid.module.css';

/** Where in the grid someone is: on a page, or on the cell of a visitor. */
export interface CellAt {
  readonly page: string;
  readonly visitor?: string;
}

interface Props {
  readonly grid: decisions.Grid;
  readonly rows: readonly ShownRow[];
  readonly cell: CellAt | null;
  /** `open` asks for the visit to be shown. */
  onSelect(cell: CellAt, open: boolean): void;
  onFold(address: string): void;
}

const HEAD = 78;

/** How wide the column of pages is, in pixels: on a very narrow screen visitors must have room beside it. */
const pagesWidth = (): number => (window.innerWidth <= 480 ? 150 : 300);

/**
 * Pages as a tree against visitors (ARIA tree grid). Only what is in view is drawn, so that its size
 * makes no difference. Arrow keys move, Enter opens a visit, and on a page Enter or Space folds it. The
 * focus stays on the grid, which names the active cell: a cell may be gone from view when the next key comes.
 */
export function ReachGrid({ grid, rows, cell, onSelect, onFold }: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const id = useId();
  const { visitors } = grid;
  // All of it is drawn anew as the window changes.
  const pages = pagesWidth();
  const rowsInView = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 6,
    scrollPaddingStart: HEAD,
  });
  const columnsInView = useVirtualizer({
    horizontal: true,
    count: visitors.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => COLUMN,
    overscan: 2,
    scrollPaddingStart: pages,
  });

  // Where the keyboard is. The address follows; two keys pressed quickly must not wait for it.
  const [here, setHere] = useState(cell);
  const isFromHistory = useRef(false);
  useEffect(() => {
    const note = (): void => {
      isFromHistory.current = true;
    };
    window.addEventListener('popstate', note);
    return () => window.removeEventListener('popstate', note);
  }, []);
  useEffect(() => {
    const isTyping = scroller.current?.contains(document.activeElement) ?? false;
    if (!isTyping || isFromHistory.current) setHere(cell);
    isFromHistory.current = false;
    // The address names the cell anew with each render; what it names decides.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [cell?.page, cell?.visitor]);

  const row = Math.max(
    0,
    rows.findIndex(({ row: { address } }) => address === here?.page),
  );
  const column = visitors.findIndex(({ name }) => name === here?.visitor);

  useEffect(() => {
    if (here === null) return;
    rowsInView.scrollToIndex(row);
    if (column >= 0) columnsInView.scrollToIndex(column);
  }, [here, row, column, rowsInView, columnsInView]);

  const select = (next: CellAt, open: boolean): void => {
    setHere(next);
    onSelect(next, open);
  };

  const move = (toRow: number, toColumn: number): void => {
    const target = rows[Math.min(Math.max(toRow, 0), rows.length - 1)];
    if (!target) return;
    const visitor = visitors[Math.min(toColumn, visitors.length - 1)];
    select(
      { page: target.row.address, ...(toColumn >= 0 && visitor ? { visitor: visitor.name } : {}) },
      false,
    );
  };

  const onKeyDown = (event: KeyboardEvent): void => {
    const current = rows[row];
    if (!current || event.ctrlKey || event.metaKey || event.altKey) return;
    const fold = (wanted: boolean): boolean => {
      if (column >= 0 || !current.isParent || current.isFolded === wanted) return false;
      onFold(current.row.address);
      return true;
    };
    const page = Math.max(1, Math.floor(((scroller.current?.clientHeight ?? 0) - HEAD) / ROW) - 1);
    const actions: Record<string, () => void> = {
      ArrowDown: () => move(row + 1, column),
      ArrowUp: () => move(row - 1, column),
      ArrowRight: () => void (fold(false) || move(row, column + 1)),
      ArrowLeft: () => void (fold(true) || move(row, Math.max(-1, column - 1))),
      Home: () => move(row, -1),
      End: () => move(row, visitors.length - 1),
      PageDown: () => move(row + page, column),
      PageUp: () => move(row - page, column),
      Enter: () =>
        column < 0
          ? fold(!current.isFolded)
          : select({ page: current.row.address, visitor: visitors[column]!.name }, true),
      ' ': () =>
        column < 0
          ? fold(!current.isFolded)
          : select({ page: current.row.address, visitor: visitors[column]!.name }, true),
    };
    const action = actions[event.key];
    if (!action) return;
    event.preventDefault();
    action();
  };

  const act = useStable((index: number, at: number): void => {
    const { row: page, isParent } = rows[index]!;
    if (at >= 0) select({ page: page.address, visitor: visitors[at]!.name }, true);
    else if (isParent) onFold(page.address);
    else select({ page: page.address }, false);
  });
  const tallies = useMemo(() => visitors.map(({ name }) => tally(grid, name)), [grid, visitors]);
  const width = pages + columnsInView.getTotalSize();
  const columns = columnsInView.getVirtualItems();

  return (
    <div className={css.reachGrid} ref={scroller}>
      <div
        role="treegrid"
        aria-label="Pages against visitors"
        aria-rowcount={rows.length + 1}
        aria-colcount={visitors.length + 1}
        style={{ width, height: HEAD + rowsInView.getTotalSize() }}
        tabIndex={0}
        aria-activedescendant={`${id}-${row}-${column}`}
        onKeyDown={onKeyDown}
      >
        <div role="row" aria-rowindex={1} className={css.head} style={{ height: HEAD, width }}>
          <div
            role="columnheader"
            aria-colindex={1}
            className={css.corner}
            style={{ width: pages }}
          >
            Page
          </div>
          {columns.map(({ index, start }) => (
            <VisitorHead
              key={visitors[index]!.name}
              grid={grid}
              index={index}
              counts={tallies[index]!}
              left={pages + start}
            />
          ))}
        </div>
        {rowsInView.getVirtualItems().map(({ index, start }) => (
          <GridRow
            key={rows[index]!.row.address}
            id={id}
            index={index}
            top={HEAD + start}
            width={width}
            pages={pages}
            shown={rows[index]!}
            visitors={visitors}
            first={columns[0]?.index ?? 0}
            last={columns.at(-1)?.index ?? -1}
            here={here !== null && index === row ? column : null}
            act={act}
          />
        ))}
      </div>
    </div>
  );
}

function VisitorHead({
  grid,
  index,
  counts,
  left,
}: {
  grid: decisions.Grid;
  index: number;
  counts: ReturnType<typeof tally>;
  left: number;
}) {
  const visitor = grid.visitors[index]!;
  const others = Object.entries(counts).filter(([outcome]) => outcome !== 'reach');
  const words = others.map(
    ([outcome, number]) => `${OUTCOME_WORDS[outcome as 'block'].word} ${number}`,
  );
  return (
    <div
      role="columnheader"
      aria-colindex={index + 2}
      className={css.visitor}
      style={{ left, width: COLUMN, height: HEAD }}
      title={[`${visitor.title}: ${visitor.summary}`, `reach ${counts.reach ?? 0}`, ...words].join(
        '\n',
      )}
    >
      <strong>{visitor.title}</strong>
      <span className={css.summary}>{visitor.summary}</span>
      <span className={css.count}>
        {OUTCOME_WORDS.reach.sign} {counts.reach ?? 0} of {grid.rows.length}
      </span>
    </div>
  );
}
