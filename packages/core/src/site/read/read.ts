import unhomoglyph from 'unhomoglyph';
import { isRecord } from '../../model/plain-value.ts';
import * as yup from 'yup';
import { buildSite } from './build.ts';
import type { Entries } from '../fields/entries.ts';
import type { ListOf } from './redirect-list.ts';
import { ErrorList, MAX_FILE_LENGTH, readDocument, type SiteDocument } from '../yaml/document.ts';
import { hasShape } from './has-shape.ts';
import { longForm } from './check-section.ts';
import type { SiteError } from '../../model/site-error.ts';
import { problemOfSection, SECTIONS } from '../fields/schema.ts';
import { siteSchema } from '../fields/site-schema.ts';
import type { SectionName } from '../../model/section.ts';
import type { Site } from '../../model/site.ts';

/** What came of reading a site file: a site when there is no error, and otherwise every error. */
export type ReadSite =
  | { readonly ok: true; readonly site: Site }
  | { readonly ok: false; readonly errors: readonly SiteError[] };

/** The version of the format that is read and written. */
const FORMAT_VERSION = 1;

/** Where what is missing altogether is told. */
const TOP = { line: 1, column: 1 };

/**
 * Reads a site file: YAML 1.2 or JSON, in the format of docs/site-file.md.
 *
 * @param text the file
 * @param file its name, for the errors
 * @param listOf gives the lists of redirects that the file names
 * @returns the site, or all errors at once in the order of their lines
 */
export function readSite(text: string, file: string, listOf: ListOf = () => null): ReadSite {
  if (text.length > MAX_FILE_LENGTH) {
    const problem = { code: 'too-large', limit: MAX_FILE_LENGTH } as const;
    return { ok: false, errors: [{ code: problem.code, file, line: 1, column: 1, problem }] };
  }
  const document = readDocument(text, file);
  const list = new ErrorList(file, document.errors, document);
  const entries = readEntries(document, list);
  const site = entries ? buildSite(entries, document, list, listOf) : null;
  if (site && list.errors.length === 0) return { ok: true, site };
  // What is not YAML is half read: what else its line seems to say would only confuse.
  const unread = new Set(document.errors.map(({ line }) => line));
  const errors = list.errors.filter(({ code, line }) => code === 'yaml' || !unread.has(line));
  return { ok: false, errors: errors.sort(inOrder(file)) };
}

/** Checks the shape of everything; what has the wrong shape is left out, so that the rest is still read. */
function readEntries(document: SiteDocument, list: ErrorList): Entries | null {
  const top = document.value;
  if (!isRecord(top)) {
    if (list.errors.length === 0) list.add(TOP, { code: 'not-a-site-file' });
    return null;
  }
  for (const name of Object.keys(top)) {
    const problem = problemOfSection(name);
    if (problem) list.atKey([name], problem);
  }
  checkVersion(top, list);
  const isSiteThere = top['site'] !== undefined;
  if (!isSiteThere) {
    const example = 'site: { name: My site, address: https://www.example }';
    list.add(TOP, { code: 'missing-field', field: 'site', example });
  }
  const site =
    isSiteThere && hasShape(siteSchema, top['site'], ['site'], list) ? top['site'] : null;
  const sections = Object.fromEntries(
    (Object.keys(SECTIONS) as SectionName[]).map((name) => [
      name,
      readSection(name, top[name], list),
    ]),
  );
  const defined = Object.fromEntries(
    Object.keys(SECTIONS).map((name) => [name, keysOf(top[name])]),
  );
  for (const [section, names] of Object.entries(defined))
    // Addresses of pages are compared as servers do.
    if (section !== 'pages') checkNames(section, names, list);
  return { site, defined, ...sections } as unknown as Entries;
}

/** Control characters, and those that are ignored where they are not known (Unicode, 5.21). */
const INVISIBLE = /[\p{Cc}\p{Default_Ignorable_Code_Point}]/u;
const BEYOND_ASCII = /[^\0-~]/;

/** Names that nobody can tell apart: a gate would admit others than its author thinks. */
export function checkNames(section: string, names: readonly string[], list: ErrorList): void {
  for (const name of names) {
    const character = INVISIBLE.exec(name)?.[0];
    if (character !== undefined)
      list.atKey([section, name], { code: 'invisible-character', name, character });
  }
  if (!names.some((name) => BEYOND_ASCII.test(name))) return;
  const known = new Map<string, string>();
  for (const name of names) {
    const looks = unhomoglyph(name.normalize('NFKC'));
    const other = known.get(looks);
    if (other === undefined) known.set(looks, name);
    else if (BEYOND_ASCII.test(name + other))
      list.atKey([section, name], { code: 'names-look-alike', name, other });
  }
}

const keysOf = (value: unknown): string[] => (isRecord(value) ? Object.keys(value) : []);

function checkVersion(top: Record<string, unknown>, list: ErrorList): void {
  if (top['kleidon'] === undefined) {
    list.add(TOP, { code: 'no-version', version: FORMAT_VERSION });
  } else if (top['kleidon'] !== FORMAT_VERSION) {
    list.atValue(['kleidon'], { code: 'other-version', version: FORMAT_VERSION });
  }
}

type Entry = readonly [key: string | number, value: unknown];

function readSection(name: SectionName, value: unknown, list: ErrorList): Entry[] {
  if (value === undefined || value === null) return [];
  const { is, entry: schema } = SECTIONS[name];
  if (is === 'list' ? !Array.isArray(value) : !isRecord(value)) {
    list.atValue([name], { code: 'section-type', section: name, is });
    return [];
  }
  const entries: Entry[] = Array.isArray(value) ? [...value.entries()] : Object.entries(value);
  return entries
    .map(([key, entry]): Entry => [key, longForm(name, entry)])
    .filter(([key, entry]) => hasShape(schema as yup.Schema, entry, [name, key], list));
}

/** The errors of the site file itself first, and each file from its top. */
const inOrder =
  (file: string) =>
  (a: SiteError, b: SiteError): number =>
    Number(a.file !== file) - Number(b.file !== file) ||
    (a.file < b.file ? -1 : a.file > b.file ? 1 : 0) ||
    a.line - b.line ||
    a.column - b.column;
