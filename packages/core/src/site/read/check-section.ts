import type * as yup from 'yup';
import { SECTIONS } from '../fields/schema.ts';
import type { EntryOf } from '../fields/entries.ts';
import type { Places } from '../yaml/document.ts';
import { buildPages } from './build-pages.ts';
import { buildRedirect } from './build-redirect.ts';
import { buildVisitor } from './build-visitor.ts';
import { checkAliases } from './build-tidy.ts';
import type { FieldReader } from './field-reader.ts';
import { hasShape } from './has-shape.ts';

type Keyed = readonly (readonly [key: string | number, value: unknown])[];

/** Finds what is wrong with entries of a section; the list of the reader has the errors. */
export function checkSection(
  section: 'pages' | 'visitors' | 'redirects',
  entries: Keyed,
  read: FieldReader,
  places: Places,
): void {
  const whole = entries.map(([key, value]) => [key, longForm(section, value)] as const);
  const right = whole.filter(([key, value]) =>
    hasShape(SECTIONS[section].entry as yup.Schema, value, [section, key], read.list),
  );
  if (section === 'pages') {
    const pages = right as readonly (readonly [string, EntryOf<'pages'>])[];
    checkAliases(buildPages(pages, read, places, read.list), read, read.list);
  }
  for (const [key, value] of right) {
    if (section === 'redirects')
      buildRedirect(Number(key), value as EntryOf<'redirects'>, read, places);
    if (section === 'visitors')
      buildVisitor(String(key), value as EntryOf<'visitors'>, [section, key], read);
  }
}

/** A page of which only the title is said is written as a text, or as nothing. */
export function longForm(section: string, entry: unknown): unknown {
  if (section !== 'pages') return entry;
  if (entry === null) return {};
  return typeof entry === 'string' ? { title: entry } : entry;
}
