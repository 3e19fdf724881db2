import { escapePattern } from './escape.ts';

/**
 * What only somebody writes who means a pattern: a named piece or a `*` that is a whole segment or value, a
 * group in braces, an expression in parentheses, a sign that is escaped.
 */
const CLEARLY_A_PATTERN =
  /(?:^|[/=])(?::[\p{ID_Start}$_]|\*(?:[/&]|$))|\{[:(*]|\{[^}]*\}[?*+]|\([^)]*(?:\||\.[*+]|\[|\\)|\\[^\p{L}\p{N}\s]/u;

/** Whether an address of a list is meant as a pattern. Lists of plain addresses are what people have. */
const isPattern = (address: string): boolean => CLEARLY_A_PATTERN.test(address);

/** Whether an address of a site file has pieces that stand for many texts. */
export const hasPieces = (text: string): boolean =>
  /[*({]|:[\p{ID_Start}$_]/u.test(text.replace(/^https?:|\\./gsu, ''));

/**
 * An address of a list as it stands in a site file: a pattern as it is, any other literally, so that
 * `/old/(weird).html` stands for itself.
 */
export function asAddress(address: string): string {
  if (isPattern(address)) return address;
  const [, home = '', path = '', rest = ''] = /^(https?:\/\/[^/?#]*)?([^?#]*)(.*)$/is.exec(
    address,
  )!;
  return home + escapePattern(path) + rest;
}

/** Two addresses, one of which is filled in from the pieces of the other. */
interface Ends {
  readonly from?: unknown;
  readonly to?: unknown;
}

/** A redirect of a list as it stands in a site file: literal addresses, unless it is clearly one between patterns. */
export function redirectFromList<T extends Ends>(redirect: T): T {
  const { from, to } = redirect;
  if (typeof from !== 'string' || isPattern(from)) return redirect;
  return {
    ...redirect,
    from: asAddress(from),
    ...(typeof to === 'string' ? { to: asAddress(to) } : {}),
  };
}

/** A redirect of a site file as it stands in a list, which `redirectFromList` reads as what it was. */
export function redirectForList<T extends Ends>(written: T): T {
  if (typeof written.from !== 'string') return written;
  const redirect = /[({]/.test(written.from) ? written : withoutNeedlessEscapes(written);
  const { from, to } = redirect as { from: string; to?: unknown };
  const plain = {
    ...redirect,
    from: withoutEscapes(from),
    ...(typeof to === 'string' ? { to: withoutEscapes(to) } : {}),
  };
  const read = redirectFromList(plain);
  if (read.from === from && read.to === to) return plain;
  // In braces, a piece that is part of a segment is clearly one.
  return isPattern(from) ? redirect : { ...redirect, from: from.replace(PIECE, '{$1}$2') };
}

/** A backslash before a letter means nothing outside of groups, and in a list it is one more character. */
function withoutNeedlessEscapes<T extends Ends>(redirect: T): T {
  const plain = (text: unknown): unknown =>
    typeof text === 'string' ? text.replace(/\\([\p{L}\p{N}\s])/gu, '$1') : text;
  return { ...redirect, from: plain(redirect.from), to: plain(redirect.to) };
}

const withoutEscapes = (text: string): string => text.replace(/\\(.)/gsu, '$1');

const PIECE =
  /((?::[\p{ID_Start}$_][\p{ID_Continue}$]*)?\((?:[^()\\]|\\.)*\)|:[\p{ID_Start}$_][\p{ID_Continue}$]*|\*)([?*+]?)/u;
