import { escapePattern } from '../pattern/parse.ts';
import type { Addition } from './proposal.ts';

/** A named piece, or a `*` that stands for the rest: what only somebody writes who means a pattern. */
const CLEARLY_A_PATTERN = /(?:^|[/=])(?::[\p{ID_Start}$_]|\*(?:[/&]|$))|\{[^}]*\}[?*+]/u;

/** Whether an address of a list is meant as a pattern. Lists of plain addresses are what people have. */
export const isPattern = (address: string): boolean => CLEARLY_A_PATTERN.test(address);

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

/** Which of some additions are patterns. */
export const patternsIn = (additions: readonly Addition[]): string[] =>
  additions.map(({ name }) => name).filter(isPattern);
