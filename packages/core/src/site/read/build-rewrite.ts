import { invertRewrite } from '../../pattern/invert-rewrite.ts';
import type { Pattern } from '../../model/pattern.ts';
import type { EntryOf } from '../fields/entries.ts';
import type { YamlPath, SiteDocument } from '../yaml/document.ts';
import type { FieldReader } from './field-reader.ts';
import { isYes } from '../fields/schema-kinds.ts';
import type { Rewrite, InverseRedirect } from '../../model/site.ts';
import type { Target } from '../../model/target.ts';

/**
 * Builds a rewrite.
 * @param servers the other servers that may be served from, as the site file allows them
 */
export function buildRewrite(
  position: number,
  entry: EntryOf<'rewrites'>,
  servers: readonly string[],
  read: FieldReader,
  document: SiteDocument,
): Rewrite | null {
  const path: YamlPath = ['rewrites', position];
  const pattern = read.pagePattern(entry.from, [...path, 'from']);
  const serve = read.target(entry.serve, [...path, 'serve']);
  if (!pattern || !serve || !read.pieces(serve, pattern.names, [...path, 'serve'])) return null;
  checkServer(serve, servers, [...path, 'serve'], read);
  return {
    source: entry.from,
    pattern,
    serve,
    canonical: isYes(entry.canonical) ? inverseRedirect(pattern, serve, path, read) : null,
    when: entry.when === undefined ? null : read.condition(entry.when, [...path, 'when'], pattern),
    ...read.period(entry.since, entry.until, path, 'since'),
    unlessPage: isYes(entry['unless-page']),
    note: entry.note ?? null,
    rank: entry.rank ?? 0,
    place: document.valueAt(path),
  };
}

function checkServer(
  { origin, fragment }: Target,
  servers: readonly string[],
  path: YamlPath,
  read: FieldReader,
): void {
  if (fragment !== null) read.list.atValue(path, { code: 'fragment-served' });
  if (origin !== null && !servers.includes(origin))
    read.list.atValue(path, { code: 'server-not-allowed', origin });
}

/** The redirect from what is served back to the address that it is asked for at. */
function inverseRedirect(
  pattern: Pattern,
  serve: Target,
  path: YamlPath,
  read: FieldReader,
): InverseRedirect | null {
  const inverse = invertRewrite(pattern, serve);
  if ('problem' in inverse) {
    read.list.atValue([...path, 'canonical'], { code: 'no-inverse', problem: inverse.problem });
    return null;
  }
  const from = read.source(inverse.from, [...path, 'serve']);
  const to = read.target(inverse.to, [...path, 'from']);
  return from && to && { source: inverse.from, ...from, to };
}
