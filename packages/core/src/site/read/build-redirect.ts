import type { YamlPath, Places } from '../yaml/document.ts';
import type { EntryOf } from '../fields/entries.ts';
import type { FieldReader } from './field-reader.ts';
import { readRedirectList, type ListOf } from './redirect-list.ts';
import { REDIRECT_KINDS } from '../fields/common-fields.ts';
import { isYes } from '../fields/schema-kinds.ts';
import type { Redirect, Wait } from '../../model/site.ts';

/** The redirects of a list beside the site file. */
export function buildList(
  position: number,
  name: string,
  listOf: ListOf,
  read: FieldReader,
): Redirect[] {
  const text = listOf(name);
  if (text === null) {
    read.list.atValue(['redirect-lists', position], { code: 'no-such-list', name });
    return [];
  }
  const { entries, places, errors } = readRedirectList(text, name);
  const readRow = read.forFile(errors);
  const redirects = entries.flatMap(
    ([row, entry]) => buildRedirect(row, entry, readRow, places) ?? [],
  );
  read.list.errors.push(...errors.errors);
  return redirects;
}

/** Builds a redirect of the site file, or of a list. */
export function buildRedirect(
  position: number,
  entry: EntryOf<'redirects'>,
  read: FieldReader,
  document: Places,
): Redirect | null {
  const path: YamlPath = ['redirects', position];
  const from = read.source(entry.from, [...path, 'from']);
  const to = read.target(entry.to, [...path, 'to']);
  if (!from || !to) return null;
  const { host, pattern, queryConstraints } = from;
  const known = [...pattern.names, ...queryConstraints.flatMap(({ piece }) => piece ?? [])];
  read.pieces(to, known, [...path, 'to']);
  const period = read.period(entry.since, entry.until, path, 'since');
  return {
    source: entry.from,
    host,
    pattern,
    queryConstraints,
    to,
    kind: kindOf(entry),
    query: entry.query ?? 'drop',
    when: entry.when === undefined ? null : read.condition(entry.when, [...path, 'when'], pattern),
    validFrom: period.validFrom,
    validUntil: period.validUntil,
    unlessPage: isYes(entry['unless-page']),
    keepFor: read.seconds(entry['keep-for'], [...path, 'keep-for']),
    wait: buildWait(entry, path, read),
    note: entry.note ?? null,
    rank: entry.rank ?? 0,
    inverseOf: null,
    place: document.valueAt(path),
  };
}

function buildWait(entry: EntryOf<'redirects'>, path: YamlPath, read: FieldReader): Wait | null {
  const seconds = read.seconds(entry.wait, [...path, 'wait']);
  if (entry.wait === undefined && entry.say !== undefined)
    read.list.atValue([...path, 'say'], { code: 'say-without-wait' });
  if (entry.wait !== undefined && kindOf(entry) === 'permanent')
    read.list.atValue([...path, 'wait'], { code: 'wait-permanent' });
  return seconds === null ? null : { seconds, say: entry.say ?? null };
}

/** A status code stands for a kind. */
const kindOf = ({ kind = 'temporary' }: EntryOf<'redirects'>): Redirect['kind'] =>
  (REDIRECT_KINDS as Readonly<Record<string, Redirect['kind']>>)[kind] ?? kind;
