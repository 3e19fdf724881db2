import type { ReactNode } from 'react';
import layout from '../style/layout.module.css';

/** An entry as a sentence, with what was found of it: a sign beside the colour says whether that is as it should be. */
export function ToldEntry({
  words,
  note,
  isRight,
  message,
  children,
}: {
  words: string;
  note: string | null;
  isRight: boolean;
  message: string;
  children?: ReactNode;
}) {
  return (
    <>
      <div>
        {words}
        {note !== null && <span className={layout.quiet}> ({note})</span>}
      </div>
      <div className={isRight ? layout.quiet : layout.refused}>
        <span aria-hidden>{isRight ? '✓' : '×'}</span> {message} {children}
      </div>
    </>
  );
}
