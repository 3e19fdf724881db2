import { matchForm, type Tidy } from '../address/tidy.ts';
import { escapePattern } from './parse.ts';

const PIECES = /(:[\p{ID_Start}$_][\p{ID_Continue}$_]*|\((?:\\.|[^\\)])*\)|\\.)|[_+]/gu;

/** A pattern as it is matched: requests come to it in their one form, so that it must have that form too. */
export function tidyPatternText(text: string, literal: string | null, tidy: Tidy): string {
  if (literal !== null) {
    const form = matchForm(literal, tidy);
    return form === literal ? text : escapePattern(form);
  }
  const { words } = tidy;
  const spaced =
    words === 'keep'
      ? text
      : text.replace(PIECES, (whole, piece?: string) => piece ?? (whole === words ? whole : words));
  const ending = tidy.endings.find((one) => spaced.endsWith(one));
  return ending === undefined ? spaced : spaced.slice(0, -ending.length);
}
