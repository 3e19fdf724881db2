import * as yup from 'yup';
import { buildSite } from './build.ts';
import type { Entries } from '../fields/entries.ts';
import type { ListOf } from './redirect-list.ts';
import { ErrorList, MAX_FILE_LENGTH, readDocument, type SiteDocument } from '../yaml/document.ts';
import { hasShape } from './has-shape.ts';
import type { SiteError } from '../../model/site-error.ts';
import { complaintAboutSection, SECTIONS, siteSchema, type SectionName } from '../fields/schema.ts';
import { isRecord } from '../fields/schema-kinds.ts';
import type { Site } from '../../model/site.ts';

/** What came of reading a site file: a site when there is no error, and otherwise every error. */
export type ReadSite =
  | { readonly ok: true; readonly site: Site }
  | { readonly ok: false; readonly errors: readonly SiteError[] };

/** The version of the format that is read and written. */
const FORMAT_VERSION = 1;

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
    const message = `The file is larger than ${MAX_FILE_LENGTH / 1024 / 1024} MiB.`;
    return {
      ok: false,
      errors: [{ code: 'too-large', file, line: 1, column: 1, message, remedy: 'Split the site.' }],
    };
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
    if (list.errors.length === 0) {
      list.add(
        'wrong-type',
        { line: 1, column: 1 },
        'This is not a site file.',
        'Begin it with "kleidon: 1" and "site:".',
      );
    }
    return null;
  }
  for (const name of Object.keys(top)) {
    const complaint = complaintAboutSection(name);
    if (complaint) list.atKey(complaint[0], [name], complaint[1], complaint[2]);
  }
  checkVersion(top, list);
  const isSiteThere = top['site'] !== undefined;
  if (!isSiteThere) {
    list.add(
      'missing-field',
      { line: 1, column: 1 },
      '"site" is missing.',
      'Add it: site: { name: My site, address: https://www.example }',
    );
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
  return { site, defined, ...sections } as unknown as Entries;
}

const keysOf = (value: unknown): string[] => (isRecord(value) ? Object.keys(value) : []);

function checkVersion(top: Record<string, unknown>, list: ErrorList): void {
  if (top['kleidon'] === undefined) {
    list.add(
      'missing-field',
      { line: 1, column: 1 },
      'The version of the format is missing.',
      `Add it: kleidon: ${FORMAT_VERSION}`,
    );
  } else if (top['kleidon'] !== FORMAT_VERSION) {
    list.atValue(
      'wrong-value',
      ['kleidon'],
      `This version of Kleidon reads format ${FORMAT_VERSION}.`,
      `Write "kleidon: ${FORMAT_VERSION}".`,
    );
  }
}

type Entry = readonly [key: string | number, value: unknown];

function readSection(name: SectionName, value: unknown, list: ErrorList): Entry[] {
  if (value === undefined || value === null) return [];
  const { is, entry: schema } = SECTIONS[name];
  if (is === 'list' ? !Array.isArray(value) : !isRecord(value)) {
    const remedy =
      is === 'list' ? 'Begin each entry with "- ".' : 'Write "name: …" for each entry.';
    list.atValue(
      'wrong-type',
      [name],
      `"${name}" must be a ${is === 'list' ? 'list' : 'map of names to entries'}.`,
      remedy,
    );
    return [];
  }
  const entries: Entry[] = Array.isArray(value) ? [...value.entries()] : Object.entries(value);
  return entries
    .map(([key, entry]): Entry => [
      key,
      name === 'pages' && typeof entry === 'string' ? { title: entry } : entry,
    ])
    .map(([key, entry]): Entry => [key, name === 'pages' && entry === null ? {} : entry])
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
