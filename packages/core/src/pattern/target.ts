import { decodePathText, encodePathText } from '../address/canonical-path.ts';
import { fillPattern, type Groups } from './fill.ts';
import { parsePattern } from './parse.ts';
import { literalOf } from '../model/pattern.ts';
import type { Target } from '../model/target.ts';
import { PatternSyntaxError } from './pattern-syntax-error.ts';

const ORIGIN = /^https?:\/\/[^/?#{}:*\\@]+(?::\d+)?(?=[/?#]|$)/i;

/**
 * Parses the target of a rule: pattern syntax in path and query, plain text elsewhere.
 * As in the constructor string of the URL Pattern Standard, a question mark begins the query unless
 * it stands behind a group.
 * @throws PatternSyntaxError
 */
export function parseTarget(text: string): Target {
  const origin = ORIGIN.exec(text)?.[0] ?? null;
  const rest = text.slice(origin?.length ?? 0);
  if (origin === null && !rest.startsWith('/')) {
    throw new PatternSyntaxError(0, { code: 'not-an-address', text });
  }
  if (origin === null && rest.startsWith('//')) {
    throw new PatternSyntaxError(0, { code: 'two-slashes' });
  }
  const [beforeFragment, fragment = null] = splitOnce(rest, '#');
  const [path, query] = splitQuery(beforeFragment);
  const home = origin?.toLowerCase() ?? null;
  const pattern = parsePattern(path === '' ? '/' : path);
  const literal = query === null && fragment === null ? literalOf(pattern) : null;
  return {
    text,
    origin: home,
    path: pattern,
    query: query === null ? null : parsePattern(query),
    fragment,
    plain: literal === null || literal.startsWith('//') ? null : (home ?? '') + literal,
  };
}

/** What stands in an address with pieces, one after the other; a question mark behind a piece belongs to it. */
const PIECES = /\\.|:[\p{ID_Start}$_][\p{ID_Continue}$_]*\??|[)}*]\??|\?/gsu;

/**
 * Cuts an address at the question mark that begins its query. As in the constructor string of the URL Pattern
 * Standard, one behind a group makes the group optional, and an escaped one begins the query there.
 */
export function splitQuery(text: string): [path: string, query: string | null] {
  if (!text.includes('?')) return [text, null];
  for (const { 0: piece, index } of text.matchAll(PIECES))
    if (piece === '?' || piece === '\\?')
      return [text.slice(0, index), text.slice(index + piece.length)];
  return [text, null];
}

/**
 * Finds a question mark that makes a group optional where a query seems to be meant, as in `/a/:y?q=:v`.
 * @returns where it stands; null where there is none
 */
export function misreadQuery(text: string): number | null {
  const [path] = splitQuery(text);
  for (const { 0: piece, index } of path.matchAll(PIECES)) {
    const end = index + piece.length;
    if (piece.length > 1 && piece.endsWith('?') && /^[\w.~-]+=/.test(path.slice(end)))
      return end - 1;
  }
  return null;
}

/** The names of all groups that a target wants to have filled. */
export function groupsWanted(target: Target): string[] {
  return [...target.path.names, ...(target.query?.names ?? [])];
}

/**
 * Fills a target with what a rule matched.
 * @param groups values as they stand in a canonical path
 * @param keptQuery the query of the request where it is to be kept; empty otherwise
 * @returns a path with query, or a whole URL
 */
export function fillTarget(target: Target, groups: Groups, keptQuery: string): string {
  if (target.plain !== null && keptQuery === '') return target.plain;
  // A value may begin with a slash; two at the front would be read as a host.
  const path = fillPattern(target.path, groups).replace(/^\/{2,}/, '/');
  const own = target.query === null ? '' : fillPattern(target.query, forQuery(groups));
  const query = [own, keptQuery].filter((piece) => piece !== '').join('&');
  return (
    (target.origin ?? '') +
    path +
    (query === '' ? '' : `?${query}`) +
    (target.fragment === null ? '' : `#${encodePathText(target.fragment)}`)
  );
}

function forQuery(groups: Groups): Groups {
  const encoded = Object.entries(groups).map(([name, value]) => [
    name,
    encodeURIComponent(decodePathText(value)),
  ]);
  return Object.fromEntries(encoded) as Groups;
}

function splitOnce(text: string, separator: string): [string, string?] {
  const at = text.indexOf(separator);
  return at === -1 ? [text] : [text.slice(0, at), text.slice(at + 1)];
}
