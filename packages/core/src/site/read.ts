import * as yup from 'yup';
import { buildSite, type Entries } from './build.ts';
import {
  ErrorList,
  MAX_FILE_LENGTH,
  readDocument,
  type Path,
  type SiteDocument,
} from './document.ts';
import type { SiteError } from './problem.ts';
import {
  complaintAboutSection,
  isRecord,
  SECTIONS,
  siteSchema,
  type Complaint,
  type SectionName,
} from './schema.ts';
import type { Site } from './site.ts';

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
 * @returns the site, or all errors at once in the order of their lines
 */
export function readSite(text: string, file: string): ReadSite {
  if (text.length > MAX_FILE_LENGTH) {
    const message = `The file is larger than ${MAX_FILE_LENGTH / 1024 / 1024} MiB.`;
    return {
      ok: false,
      errors: [{ code: 'too-large', file, line: 1, column: 1, message, remedy: 'Split the site.' }],
    };
  }
  const document = readDocument(text, file);
  const list = new ErrorList(file, document);
  const entries = readEntries(document, list);
  const site = entries ? buildSite(entries, document, list) : null;
  if (site && list.errors.length === 0) return { ok: true, site };
  // What is not YAML is half read: what else its line seems to say would only confuse.
  const unread = new Set(document.errors.map(({ line }) => line));
  const errors = list.errors.filter(({ code, line }) => code === 'yaml' || !unread.has(line));
  return { ok: false, errors: errors.sort((a, b) => a.line - b.line || a.column - b.column) };
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

/** Whether a value has the shape that a schema asks for; what is wrong with it goes to `list`. */
export function hasShape(schema: yup.Schema, value: unknown, path: Path, list: ErrorList): boolean {
  if (value === null && schema.type === 'object') {
    list.atKey('wrong-type', path, `"${path.at(-1)}" is empty.`, 'Write its fields, or remove it.');
    return false;
  }
  try {
    schema.validateSync(value, { strict: true, abortEarly: false });
    return true;
  } catch (error) {
    if (!(error instanceof yup.ValidationError)) throw error;
    for (const one of error.inner.length > 0 ? error.inner : [error]) report(one, path, list);
    return false;
  }
}

function report(error: yup.ValidationError, path: Path, list: ErrorList): void {
  const steps = (error.path ?? '').split(/[.[\]]+/).filter((step) => step !== '');
  const whole = [...path, ...steps.map((step) => (/^\d+$/.test(step) ? Number(step) : step))];
  const { code, remedy } = (error.params ?? {}) as Partial<Complaint>;
  const message = error.message.replace('"This"', `"${path.at(-1)}"`);
  if (code === 'unknown-field' || code === 'missing-field' || code === 'not-yet') {
    list.atKey(
      code,
      code === 'missing-field' && steps.length > 0 ? whole.slice(0, -1) : whole,
      message,
      remedy!,
    );
  } else {
    list.atValue(
      code ?? 'wrong-type',
      whole,
      message,
      remedy ?? 'See docs/site-file.md for what may stand here.',
    );
  }
}
