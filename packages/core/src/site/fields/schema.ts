import type * as yup from 'yup';
import type { ListSection, SectionName } from '../../model/section.ts';
import type { SiteProblem } from '../../model/site-error.ts';
import { suggest } from '../../text/nearest.ts';
import { pageSchema, productSchema } from './page-schemas.ts';
import {
  gateSchema,
  redirectSchema,
  rewriteSchema,
  notFoundSchema,
  landingSchema,
  partSchema,
  expectedVisitSchema,
  guaranteeSchema,
  menuSchema,
  acceptedSchema,
} from './rule-schemas.ts';
import { required, text, textOrNothing } from './schema-kinds.ts';
import { visitorSchema } from './visitor-schema.ts';

/**
 * The sections of a site file: what it is for, what its entries look like, and whether
 * entries have names.
 */
export const SECTIONS = {
  roles: {
    is: 'map',
    about: 'What people are on this site.',
    entry: textOrNothing('What it is for'),
  },
  groups: {
    is: 'map',
    about: 'Who belongs together.',
    entry: textOrNothing('What it is for'),
  },
  products: {
    is: 'map',
    about: 'What is sold, and where.',
    entry: productSchema,
  },
  audiences: {
    is: 'map',
    about: 'Conditions that have a name.',
    entry: required(text('condition', 'Condition'), 'crew: role volunteer'),
  },
  pages: { is: 'map', about: 'What the website has.', entry: pageSchema },
  gates: {
    is: 'map',
    about:
      'Whom a page or a section admits, and what happens to everyone else. The nearest gate decides.',
    entry: gateSchema,
  },
  redirects: {
    is: 'list',
    about: 'Where old addresses redirect to. The most specific applies.',
    entry: redirectSchema,
  },
  'redirect-lists': {
    is: 'list',
    about: 'Files beside the site file with more redirects, in CSV.',
    entry: required(text('text', 'File'), 'redirect-lists: [old-site.csv]'),
  },
  rewrites: {
    is: 'list',
    about: 'Readable addresses that are served from others. The most specific applies.',
    entry: rewriteSchema,
  },
  'not-found': {
    is: 'list',
    about: 'What is shown where no page is. The most specific applies.',
    entry: notFoundSchema,
  },
  landings: {
    is: 'list',
    about: 'Where people are taken after signing in or out.',
    entry: landingSchema,
  },
  parts: {
    is: 'map',
    about: 'Blocks of pages that only some visitors see.',
    entry: partSchema,
  },
  menus: {
    is: 'map',
    about: 'Links that stand on many pages.',
    entry: menuSchema,
  },
  guarantees: {
    is: 'list',
    about: 'What must always or never happen, proved for every visitor and from now on.',
    entry: guaranteeSchema,
  },
  visits: {
    is: 'list',
    about: 'Visits that are to end as they say.',
    entry: expectedVisitSchema,
  },
  accepted: {
    is: 'list',
    about: 'Findings that are accepted, with the reason.',
    entry: acceptedSchema,
  },
  visitors: {
    is: 'map',
    about: 'Who the grid is drawn for.',
    entry: visitorSchema,
  },
} as const satisfies {
  [S in SectionName]: {
    is: S extends ListSection ? 'list' : 'map';
    about: string;
    entry: yup.Schema;
  };
};

/** What can stand at the top of a site file. */
const TOP_LEVEL = ['kleidon', 'site', ...Object.keys(SECTIONS)];

/** What is wrong with a name at the top of a site file; null when nothing is. */
export function problemOfSection(name: string): SiteProblem | null {
  if (TOP_LEVEL.includes(name)) return null;
  return { code: 'unknown-section', name, suggestion: suggest(name, TOP_LEVEL) };
}
