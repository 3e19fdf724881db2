import wrapAnsi from 'wrap-ansi';
import { terminalWidth } from './style.ts';

/** Below this width, lines would be of single words. */
const LEAST = 40;

/**
 * A text that is broken between words where the terminal ends, all of it behind the end of what stands before
 * it; one line in a pipe.
 *
 * @param before what stands before its first line, without colours
 */
export function wrapped(before: string, text: string): string {
  const width = terminalWidth();
  if (width === null || width < LEAST) return before + text;
  const lines = wrapAnsi(text, width - before.length).split('\n');
  return before + lines.join(`\n${' '.repeat(before.length)}`);
}
