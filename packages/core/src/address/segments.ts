import type { SegmentProblem } from '../model/address-problem.ts';
import { encodePathText } from './canonical-path.ts';
import type { AmbiguousCharacter } from '../model/tidy.ts';

/**
 * Removes dot segments from a canonical path (URL Standard, “path state”; RFC 3986, 5.2.4). The
 * result begins with a slash and holds no segment that is `.` or `..`.
 */
export function withoutDotSegments(path: string): string {
  if (!path.includes('/.')) return path;
  const resolved: string[] = [];
  const segments = path.slice(1).split('/');
  segments.forEach((segment, position) => {
    const isLast = position === segments.length - 1;
    if (segment === '..') resolved.pop();
    else if (segment !== '.') resolved.push(segment);
    if (isLast && (segment === '.' || segment === '..')) resolved.push('');
  });
  return `/${resolved.join('/')}`;
}

/** Joins slashes that follow each other. */
export const withSingleSlashes = (path: string): string =>
  path.includes('//') ? path.replace(/\/{2,}/g, '/') : path;

/** What any of the problems needs: most paths have nothing of it. */
const SUSPICIOUS = /[;$]|\.(?:\/|$)|%(?:20(?:\/|$)|3F|23|25|[89A-F])/;

const AMBIGUOUS: Readonly<Record<AmbiguousCharacter, RegExp>> = {
  // Servlet containers and others cut path parameters off, also before dots are resolved.
  ';': /;/,
  // Rewriting servers and frameworks that decode too early begin the query or the fragment here.
  '?': /%3F/,
  '#': /%23/,
  // Windows drops dots and spaces at the end of a name.
  '.': /\.(?:\/|$)/,
  ' ': /%20(?:\/|$)/,
};

/** An escape that stands escaped, also in the form that some servers have for other character sets. */
const DOUBLE_ESCAPE = /%25(?:[\da-f]{2}|u[\da-f]{4})/i;

/**
 * Why a canonical path may be read as another one by a common server; null where it can't.
 * @param allow characters that the website is known to take as ordinary ones
 */
export function segmentProblem(
  path: string,
  allow: readonly AmbiguousCharacter[],
): SegmentProblem | null {
  if (!SUSPICIOUS.test(path)) return null;
  for (const [character, found] of Object.entries(AMBIGUOUS))
    if (!allow.includes(character as AmbiguousCharacter) && found.test(path))
      return 'ambiguous-segment';
  if (DOUBLE_ESCAPE.test(path)) return 'double-escape';
  if (path.includes(':$')) return 'stream';
  return /%[89A-F]/.test(path) && hasLookAlike(path) ? 'look-alike' : null;
}

const SEPARATOR = /[/\\;?#%]/;
const ALL = Object.keys(AMBIGUOUS) as AmbiguousCharacter[];

/**
 * Whether compatibility normalization (Unicode Standard Annex 15, NFKC) brings forth what is refused or
 * means something: a full-width slash is one to a server that normalizes names. The website is known to take the
 * allowed characters as ordinary ones, and not the characters that look like them.
 */
function hasLookAlike(path: string): boolean {
  const decoded = decodeURIComponent(path);
  const folded = decoded.normalize('NFKC');
  if (folded === decoded) return false;
  const count = (text: string, found: RegExp): number =>
    text.match(new RegExp(found, 'g'))?.length ?? 0;
  if (count(folded, SEPARATOR) > count(decoded, SEPARATOR)) return true;
  const canonical = encodePathText(folded);
  return (
    withoutDotSegments(canonical) !== canonical ||
    Object.values(AMBIGUOUS).some((found) => count(canonical, found) > count(path, found)) ||
    segmentProblem(canonical.replace(/%[89A-F][\dA-F]/g, 'x'), ALL) !== null
  );
}
