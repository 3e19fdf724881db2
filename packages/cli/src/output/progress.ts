import { clearLine, cursorTo } from 'node:readline';

/** How far long work is: one line that is written over, and only where someone sits before it. */
export interface Progress {
  say(text: string): void;
  /** Takes the line away. */
  end(): void;
}

const SILENT: Progress = { say: () => undefined, end: () => undefined };

/** Begins to tell how far a work is; on standard error, so that it is never part of an answer. */
export function showProgress(): Progress {
  const { stderr } = process;
  if (!stderr.isTTY) return SILENT;
  const clear = (): void => {
    cursorTo(stderr, 0);
    clearLine(stderr, 0);
  };
  return {
    say: (text) => {
      clear();
      stderr.write(text.slice(0, stderr.columns - 1));
    },
    end: clear,
  };
}
