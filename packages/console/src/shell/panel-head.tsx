import { useEffect, useRef, type ReactNode } from 'react';
import { Button } from 'antd';

/**
 * What a panel beside a table is about, and its button to close it. It takes the focus as it opens, for it stands
 * behind all of the table.
 */
export function PanelHead({
  title,
  close = 'Close',
  hasFocus = true,
  onClose,
}: {
  title: ReactNode;
  close?: string;
  /** Not where something in the panel takes it. */
  hasFocus?: boolean;
  onClose: () => void;
}) {
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => {
    if (hasFocus) heading.current?.focus({ preventScroll: true });
  }, [hasFocus]);
  return (
    <header>
      <h2 ref={heading} tabIndex={-1}>
        {title}
      </h2>
      <Button size="small" onClick={onClose}>
        {close}
      </Button>
    </header>
  );
}
