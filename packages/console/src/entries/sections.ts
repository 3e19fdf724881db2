import declared from 'virtual:site-file-fields';
import type { model, siteFiles } from '@kleidon/core';

/** A section of a site file as the console lists and edits it. */
export interface Section {
  readonly section: EntrySection;
  readonly title: string;
  readonly one: string;
  readonly is: 'map' | 'list';
  readonly about: string;
  readonly fields: readonly siteFiles.FieldDeclaration[];
  /** The fields that the list shows. */
  readonly columns: readonly string[];
  /** Those that it shows beside a form; the first two where nothing is said. */
  readonly brief?: readonly string[];
}

/** The sections that have forms. */
export type EntrySection = Exclude<model.SectionName, 'accepted' | 'redirect-lists'>;

function sectionOf(
  section: EntrySection,
  title: string,
  columns: readonly string[],
  brief?: readonly string[],
): Section {
  const { is, one, about, entry } = declared.sections.find((other) => other.section === section)!;
  const fields = entry.kind === 'fields' ? entry.fields : [entry];
  return { section, title, is, one, about, fields, columns, ...(brief ? { brief } : {}) };
}

export const PAGES = sectionOf('pages', 'Pages', []);

export const GATES = sectionOf(
  'gates',
  'Gates',
  ['under', 'at', 'right', 'admit', 'otherwise', 'from', 'until', 'narrows', 'rank'],
  ['under', 'admit'],
);

export const VISITORS = sectionOf(
  'visitors',
  'Visitors',
  ['title', 'guest', 'roles', 'groups', 'bought', 'attributes'],
  ['roles', 'bought'],
);

export const REDIRECTS = sectionOf(
  'redirects',
  'Redirects',
  ['from', 'to', 'kind', 'query', 'when', 'since', 'until', 'note'],
  ['from', 'to'],
);

export const PRODUCTS = sectionOf('products', 'Products', ['title', 'term', 'buy-at']);

/** What decides who is let in, and what depends on it. */
export const ACCESS: readonly Section[] = [
  GATES,
  sectionOf('audiences', 'Audiences', ['']),
  sectionOf('roles', 'Roles', ['']),
  sectionOf('groups', 'Groups', ['']),
  sectionOf('parts', 'Parts', ['admit']),
  sectionOf('menus', 'Menus', ['links', 'on', 'shows']),
  sectionOf('landings', 'Landings', ['after', 'who', 'go', 'return-first', 'rank']),
];

/** What must always or never happen. */
export const GUARANTEES = sectionOf('guarantees', 'Guarantees', [
  'who',
  'never',
  'always',
  'under',
  'at',
  'note',
]);

/** Visits that must end as they say. */
export const EXPECTED_VISITS = sectionOf('visits', 'Expected visits', [
  'address',
  'as',
  'outcome',
  'final',
  'note',
]);

/** What is done with addresses, besides redirects. */
export const ADDRESSES: readonly Section[] = [
  sectionOf(
    'rewrites',
    'Rewrites',
    ['from', 'serve', 'canonical', 'when', 'note'],
    ['from', 'serve'],
  ),
  sectionOf('not-found', 'Not found', ['under', 'show', 'say', 'status']),
];

/** The settings of the site itself. */
export const SITE_FIELDS: readonly siteFiles.FieldDeclaration[] = declared.site.fields;
