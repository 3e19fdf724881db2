import type { ReactNode } from 'react';
import { clsx } from 'clsx';
import layout from '../style/layout.module.css';

/**
 * The place of a table, which scrolls by itself where the table is larger. It takes the focus, so that whoever has
 * no mouse scrolls it with the keyboard (WCAG 2.2, 2.1.1).
 */
export function TableFrame({
  label,
  inPage = false,
  live,
  children,
}: {
  /** What the table tells. */
  label: string;
  /** One of several things on a page, which scrolls with them, and by itself only to the side. */
  inPage?: boolean;
  /** Where what it tells changes by itself. */
  live?: 'polite';
  children: ReactNode;
}) {
  return (
    <div
      role="region"
      aria-label={label}
      aria-live={live}
      tabIndex={0}
      className={clsx(layout.tableFrame, inPage && layout.inPage)}
    >
      {children}
    </div>
  );
}
