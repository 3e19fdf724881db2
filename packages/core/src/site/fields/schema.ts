import { isRecord } from '../../model/plain-value.ts';
import type * as yup from 'yup';
import type { ListSection, SectionName } from '../../model/section.ts';
import { suggest } from '../../text/nearest.ts';
import type { SiteProblem } from '../../model/site-error.ts';
import {
  attributes,
  complain,
  fields,
  flag,
  LATER,
  listOf,
  names,
  number,
  oneOf,
  optional,
  required,
  text,
  textList,
  textOrNothing,
} from './schema-kinds.ts';

const purchase = fields('a purchase', {
  product: required(text('product'), 'product: hide-permit'),
  from: text('moment'),
  until: text('moment'),
  refunded: flag(),
  paused: flag(),
});

export const siteSchema = fields('site', {
  name: required(text(), 'name: My site'),
  address: required(text(), 'address: https://www.example'),
  also: textList('host'),
  ungated: oneOf('open', 'closed'),
  undeclared: oneOf('missing', 'website'),
  change: oneOf('as-view', 'gated-only'),
  'sign-in': text('address'),
  'full-access': text('condition'),
  'full-access-right': oneOf('view', 'change'),
  'time-zone': text(),
  servers: textList('host'),
  tidy: optional(
    fields('tidy', {
      case: oneOf('lower', 'keep'),
      'final-slash': oneOf('drop', 'add', 'keep'),
      endings: names(),
      index: names(),
      words: oneOf('-', '_', 'keep'),
      allow: names(),
    }),
  ),
});

const productSchema = fields('a product', {
  title: text(),
  term: oneOf('subscription', 'once'),
  'buy-at': text('address'),
});

const pageSchema = fields('a page', {
  title: text(),
  kind: oneOf('document', 'file'),
  'missing-unless': text('condition'),
  from: text('moment'),
  until: text('moment'),
  draft: flag(),
  'leads-to': text('address'),
  https: oneOf('required'),
  refresh: text('duration'),
  listed: flag(),
  grid: flag(),
  example: text(),
  aliases: textList('pattern'),
});

const gateSchema = fields('a gate', {
  under: textList('scope'),
  at: textList('scope'),
  right: oneOf('view', 'change'),
  admit: required(text('condition'), 'admit: signed-in'),
  from: text('moment'),
  until: text('moment'),
  narrows: flag(),
  'full-access': flag(),
  otherwise: listOf(
    fields('otherwise', {
      who: text('condition'),
      do: required(oneOf('sign-in', 'refuse', 'send', 'offer', 'hide'), 'do: refuse'),
      say: text(),
      show: text('address'),
      to: text('address'),
    }),
    'otherwise',
  ),
  rank: number(),
}).test('somewhere', (value, context) =>
  isRecord(value) && value['under'] === undefined && value['at'] === undefined
    ? complain(context, { code: 'gate-without-scope' })
    : true,
);

export const redirectSchema = fields('a redirect', {
  from: required(text('pattern'), 'from: /old'),
  to: required(text('address'), 'to: /new'),
  kind: oneOf('permanent', 'temporary'),
  query: oneOf('keep', 'drop'),
  when: text('condition'),
  since: text('moment'),
  until: text('moment'),
  'unless-page': flag(),
  'keep-for': text('duration'),
  wait: text('duration'),
  say: text(),
  note: text(),
  rank: number(),
});

const rewriteSchema = fields('a rewrite', {
  from: required(text('pattern'), 'from: /people/:name'),
  serve: required(text('address'), 'serve: /activity?person=:name'),
  canonical: flag(),
  when: text('condition'),
  since: text('moment'),
  until: text('moment'),
  'unless-page': flag(),
  note: text(),
  rank: number(),
});

const notFoundSchema = fields('a not-found rule', {
  under: required(text('scope'), 'under: /'),
  show: text('address'),
  say: text(),
  status: oneOf(404, 410),
  rank: number(),
}).test('something', (value, context) =>
  isRecord(value) && value['show'] === undefined && value['say'] === undefined
    ? complain(context, { code: 'not-found-without-content' })
    : true,
);

const landingSchema = fields('a landing', {
  after: required(oneOf('sign-in', 'sign-out'), 'after: sign-in'),
  who: text('condition'),
  go: required(text('address'), 'go: /'),
  'return-first': flag(),
  rank: number(),
});

const partSchema = fields('a part', { admit: required(text('condition'), 'admit: signed-in') });

const menuSchema = fields('a menu', {
  links: required(textList('address'), 'links: [/, /about]'),
  on: textList('scope'),
  shows: oneOf('everything', 'usable'),
});

const acceptedSchema = fields('an accepted finding', {
  finding: required(text('finding'), 'finding: tie'),
  about: text(),
  note: required(text(), 'note: On purpose, because …'),
});

/** One visitor; the same shape is used for one made up on the spot. */
export const visitorSchema = fields('a visitor', {
  title: text(),
  guest: flag(),
  id: text(),
  roles: names('role'),
  groups: names('group'),
  bought: listOf(purchase, 'bought'),
  attributes: attributes(),
  language: text(),
});

/** The sections of a site file: what each of their entries looks like, and whether they have names. */
export const SECTIONS = {
  roles: { is: 'map', entry: textOrNothing() },
  groups: { is: 'map', entry: textOrNothing() },
  products: { is: 'map', entry: productSchema },
  audiences: { is: 'map', entry: required(text('condition'), 'crew: role volunteer') },
  pages: { is: 'map', entry: pageSchema },
  gates: { is: 'map', entry: gateSchema },
  redirects: { is: 'list', entry: redirectSchema },
  'redirect-lists': { is: 'list', entry: required(text(), 'redirect-lists: [old-site.csv]') },
  rewrites: { is: 'list', entry: rewriteSchema },
  'not-found': { is: 'list', entry: notFoundSchema },
  landings: { is: 'list', entry: landingSchema },
  parts: { is: 'map', entry: partSchema },
  menus: { is: 'map', entry: menuSchema },
  accepted: { is: 'list', entry: acceptedSchema },
  visitors: { is: 'map', entry: visitorSchema },
} as const satisfies {
  [S in SectionName]: { is: S extends ListSection ? 'list' : 'map'; entry: yup.Schema };
};

/** What can stand at the top of a site file. */
const TOP_LEVEL = ['kleidon', 'site', ...Object.keys(SECTIONS)];

/** What is wrong with a name at the top of a site file; null when nothing is. */
export function problemOfSection(name: string): SiteProblem | null {
  if (TOP_LEVEL.includes(name)) return null;
  return LATER.has(name)
    ? { code: 'not-yet', name }
    : { code: 'unknown-section', name, suggestion: suggest(name, TOP_LEVEL) };
}
