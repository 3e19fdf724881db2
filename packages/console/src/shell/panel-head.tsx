import { useEffect, useRef, useState, type ReactNode } from 'react';
import { Button } from 'antd';
import { NavigationType, useNavigationType } from 'react-router';

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
  // Where the address is loaded, or gone back to, nobody opened it; what happens later is no reason either.
  const isOpened = useNavigationType() !== NavigationType.Pop;
  const [takesFocus] = useState(hasFocus && isOpened);
  useEffect(() => {
    if (takesFocus) heading.current?.focus({ preventScroll: true });
  }, [takesFocus]);
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
