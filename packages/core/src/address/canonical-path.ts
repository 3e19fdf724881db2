/**
 * The one way of writing a path: percent-encoding only where the WHATWG URL Standard's path
 * percent-encode set asks for it, upper-case hexadecimal digits, UTF-8.
 *
 * `/%63rew` and `/crew` are the same address to every server that decodes paths, so rules must see
 * them as the same; comparing canonical texts does that.
 */
const NEEDS_WORK = /[^!$&'()*+,\-./0-9:;=@A-Z[\]_a-z|~\\]/;
const ENCODE = /[\u0000-\u0020"#<>?^`{}\u007f-\u{10ffff}%]/gu;

/** Writes decoded text as it stands in a canonical path. */
export function encodePathText(text: string): string {
  return text.replace(ENCODE, (character) =>
    character.codePointAt(0)! < 0x80
      ? `%${character.codePointAt(0)!.toString(16).toUpperCase().padStart(2, '0')}`
      : encodeURIComponent(character),
  );
}

/** Escapes that one server reads as a separator or an end, and another as a letter. */
const AMBIGUOUS = /%(?:2f|5c|[01][\da-f]|7f)/i;

/** Whether a path holds an ambiguous escape: `/`, `\\` or a control character. */
export function isAmbiguous(text: string): boolean {
  return AMBIGUOUS.test(text);
}

export interface CanonicalOptions {
  /** Brings the text to lower case as well. */
  readonly ignoreCase?: boolean;
  /** Brings the text to Unicode normalization form KC as well: some file systems and servers read what differs in that alone as one name. */
  readonly fold?: boolean;
}

/**
 * Canonical form of a path or a piece of one.
 * @returns null when an escape is malformed, is not UTF-8, or is ambiguous
 */
export function canonicalPath(text: string, options: CanonicalOptions = {}): string | null {
  if (!NEEDS_WORK.test(text)) return options.ignoreCase ? text.toLowerCase() : text;
  if (isAmbiguous(text)) return null;
  try {
    // Decoded as a whole, so that an escaped capital is lowered and "%2541" is not decoded twice.
    const decoded = decodeURIComponent(text.toWellFormed());
    const folded = options.fold ? decoded.normalize('NFKC') : decoded;
    const cased = options.ignoreCase ? folded.toLowerCase() : folded;
    return encodePathText(options.fold ? cased.normalize('NFKC') : cased);
  } catch {
    return null;
  }
}

const BEYOND_ASCII = /%[89A-F]/;

/**
 * Folds a canonical path to the form in which servers may take different spellings for one name: Unicode's full case
 * folding where case makes no difference, compatibility normalization, and no characters that are ignored by default
 * (Unicode Standard, 3.13, D147; 5.21).
 */
export function foldedPath(path: string, ignoreCase: boolean): string {
  if (!BEYOND_ASCII.test(path)) return path;
  let text = decodePathText(path);
  // Each step may bring forth what another one folds.
  for (let before = ''; text !== before;) {
    before = text;
    const shown = text.normalize('NFKC').replace(/\p{Default_Ignorable_Code_Point}/gu, '');
    text = (ignoreCase ? foldCase(shown) : shown).normalize('NFKC');
  }
  return encodePathText(text);
}

/** Folds letter case: one character may become several, and a dotless i is one with a dot, as in capitals. */
export const foldCase = (text: string): string =>
  Array.from(text, (character) => character.toLowerCase().toUpperCase().toLowerCase()).join('');

/**
 * Decodes a piece of a canonical path, for comparing it with what people wrote. A piece that a pattern cuts out of
 * the middle of an escape is none that people write, and stays as it is.
 */
export function decodePathText(text: string): string {
  if (!text.includes('%')) return text;
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}
