import { titleFromPath } from '../../address/title.ts';
import { asList } from '../fields/as-list.ts';
import type { ErrorList, YamlPath, Places } from '../yaml/document.ts';
import type { Entries } from '../fields/entries.ts';
import { exampleOf } from '../../pattern/example.ts';
import type { FieldReader } from './field-reader.ts';
import { isYes } from '../fields/schema-kinds.ts';
import type { Page } from '../../model/site.ts';

/** Builds the pages; two of the same address are an error. */
export function buildPages(
  entries: Entries['pages'],
  read: FieldReader,
  document: Places,
  list: ErrorList,
): Page[] {
  const pages: Page[] = [];
  const claimed = new Map<string, string>();
  for (const [key, entry] of entries) {
    const address = String(key);
    const path: YamlPath = ['pages', address];
    const pattern = read.pagePattern(address, path);
    if (!pattern) continue;
    const form = read.matchFormOf(pattern);
    const other = claimed.get(form);
    if (other !== undefined) {
      list.atKey(path, { code: 'same-page', address, other });
      continue;
    }
    claimed.set(form, address);
    const missingUnless =
      entry['missing-unless'] === undefined
        ? null
        : read.condition(entry['missing-unless'], [...path, 'missing-unless'], pattern);
    const leadsTo = entry['leads-to'] ?? null;
    if (leadsTo !== null) read.address(leadsTo, [...path, 'leads-to']);
    if (entry.example !== undefined) read.example(entry.example, pattern, [...path, 'example']);
    const aliases = asList(entry.aliases);
    pages.push({
      address,
      aliases,
      pattern,
      title: entry.title ?? titleFromPath(address),
      kind: entry.kind ?? 'document',
      missingUnless,
      ...read.period(entry.from, entry.until, path),
      draft: isYes(entry.draft),
      leadsTo,
      https: entry.https === 'required',
      refresh: read.seconds(entry.refresh, [...path, 'refresh']),
      listed: entry.listed === undefined || isYes(entry.listed),
      inGrid: entry.grid === undefined || isYes(entry.grid),
      example: entry.example ?? exampleOf(pattern, missingUnless),
      place: document.keyAt(path),
    });
  }
  return pages;
}
