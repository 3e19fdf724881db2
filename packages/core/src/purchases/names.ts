/** Why a text is no name of a buyer. */
export type NameProblem = 'empty' | 'control-character' | 'surrounding-space' | 'too-long';

export type ReadName =
  | { readonly ok: true; readonly name: string }
  | { readonly ok: false; readonly problem: NameProblem };

const MAX_LENGTH = 320;
/** Begins what stands in place of an erased name. No name has a control character. */
const ERASED = '\u0001';

/**
 * Folds an e-mail address to the form in which it is compared: ASCII letters in lower case, everything else by code
 * point. SQLite's `lower` does the same.
 */
export const foldEmail = (email: string): string =>
  email.replace(/[A-Z]/g, (letter) => letter.toLowerCase());

/** Reads an e-mail address of a buyer, with the spaces and tabs around it removed. */
export function readEmail(text: string): ReadName {
  const read = readName(text.replace(/^[ \t]+|[ \t]+$/g, ''));
  return read.ok ? { ok: true, name: foldEmail(read.name) } : read;
}

/** Reads the id of a buyer on the website, which is compared by code point. */
export const readVisitorId = (text: string): ReadName => readName(text);

function readName(text: string): ReadName {
  if (text === '') return { ok: false, problem: 'empty' };
  if (text.length > MAX_LENGTH) return { ok: false, problem: 'too-long' };
  if (/\p{Cc}/u.test(text)) return { ok: false, problem: 'control-character' };
  return /^\s|\s$/.test(text)
    ? { ok: false, problem: 'surrounding-space' }
    : { ok: true, name: text };
}

/** What stands in place of an erased name: it has the same purchases, and nobody has it. */
export const erasedName = (pseudonym: string): string => ERASED + pseudonym;

export const isErased = (name: string): boolean => name.startsWith(ERASED);

/** A name, unless it was erased. */
export const knownName = (name: string | null | undefined): string | null =>
  name === null || name === undefined || isErased(name) ? null : name;
