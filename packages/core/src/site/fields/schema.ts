import { isRecord } from '../../model/plain-value.ts';
import type * as yup from 'yup';
import type { ListSection, SectionName } from '../../model/section.ts';
import { suggest } from '../../text/nearest.ts';
import type { SiteProblem } from '../../model/site-error.ts';
import {
  attributes,
  column,
  complain,
  fields,
  flag,
  group,
  LATER,
  listOf,
  names,
  number,
  oneOf,
  required,
  text,
  textList,
  textOrNothing,
} from './schema-kinds.ts';

const FROM = () => text('moment', 'From');
const UNTIL = () => text('moment', 'Until', 'the first day after');
const NOTE = () => text('text', 'Note', 'the reason, for later readers');
const RANK = () => number('Rank', 'higher goes first');
const ONLY_WHERE_NO_PAGE = () => flag('no', 'Only where no page is');

const purchase = fields('a purchase', {
  product: required(text('product', 'Product'), 'product: hide-permit'),
  from: FROM(),
  until: UNTIL(),
  refunded: flag('no', 'Refunded'),
  paused: flag('no', 'Paused'),
});

export const siteSchema = fields('site', {
  name: required(text('text', 'Name'), 'name: My site'),
  address: required(text('text', 'Address', 'protocol and host'), 'address: https://www.example'),
  also: textList('host', 'Other hosts, which redirect to it'),
  ungated: oneOf(['open', 'closed'], 'open', 'Pages without a gate are', 'closed: to guests'),
  undeclared: oneOf(
    ['missing', 'website'],
    'missing',
    'Addresses that no page has',
    'website: the website answers, where the gates admit',
  ),
  change: oneOf(
    ['as-view', 'gated-only'],
    'as-view',
    'Who may change a page without a gate for changes',
    'as-view: whoever may view it; gated-only: nobody',
  ),
  'sign-in': text('address', 'Guests sign in at'),
  servers: textList('host', 'Other servers that rewrites may serve from'),
  'full-access': text('condition', 'Admitted everywhere'),
  'full-access-right': oneOf(
    ['view', 'change'],
    'change',
    'What those with full access may do',
    'view: only look; change: both',
  ),
  tidy: group(
    fields('tidy', {
      case: oneOf(['lower', 'keep'], 'lower', 'Letter case'),
      'final-slash': oneOf(['drop', 'add', 'keep'], 'drop', 'Final slash'),
      endings: names('text', 'Endings dropped', 'such as .html'),
      index: names('text', 'Index names', 'index, or an address of the home page such as /home'),
      words: oneOf(['-', '_', 'keep'], 'keep', 'Between words'),
      allow: names('text', 'Allowed characters', 'that the website takes as ordinary ones'),
    }),
    'One form of each address',
  ),
  'time-zone': text('text', 'Time zone', 'such as Europe/London'),
});

const productSchema = fields('a product', {
  title: text('text', 'Title'),
  term: oneOf(['subscription', 'once'], 'once', 'Term'),
  'buy-at': text('address', 'Sold at'),
});

const pageSchema = fields('a page', {
  title: column(text('text', 'Title'), 'name', 'heading'),
  kind: column(oneOf(['document', 'file'], 'document', 'Kind'), 'type'),
  draft: column(flag('no', 'A draft: only those with full access see it')),
  listed: column(flag('yes', 'Not listed by search engines'), 'indexed'),
  grid: flag('yes', 'Left out of the grid and of probes'),
  https: column(oneOf(['required'], null, 'Only over HTTPS')),
  from: column(FROM(), 'opens', 'start'),
  until: column(UNTIL(), 'closes', 'end'),
  'leads-to': column(text('address', 'Redirects to', 'a page, a file or another site'), 'target'),
  refresh: column(text('duration', 'Browsers ask for it again after', '60s, 5m or 1h')),
  'missing-unless': text('condition', 'Missing unless'),
  aliases: textList('pattern', 'Other addresses, which redirect to it'),
  example: column(text('text', 'Example', 'a real address, for a pattern')),
});

const gateSchema = fields('a gate', {
  under: textList('scope', 'Under', 'these addresses and all beneath them'),
  at: textList('scope', 'At', 'exactly these addresses'),
  right: oneOf(['view', 'change'], 'view', 'Right'),
  admit: required(text('condition', 'Admits'), 'admit: signed-in'),
  narrows: flag('no', 'The gate above must admit too'),
  'full-access': flag('yes', 'Full access does not pass here'),
  otherwise: listOf(
    fields('otherwise', {
      who: text('condition', 'Who', 'a condition; anyone where empty'),
      do: required(
        oneOf(['sign-in', 'refuse', 'send', 'offer', 'hide'], null, 'What happens'),
        'do: refuse',
      ),
      say: text('text', 'Words, for refuse'),
      show: text('address', 'Page shown, for refuse'),
      to: text('address', 'Where to, for send'),
    }),
    'otherwise',
    'Everyone else, the first entry that fits',
    'entry for everyone else',
  ),
  from: FROM(),
  until: UNTIL(),
  rank: RANK(),
}).test('somewhere', (value, context) =>
  isRecord(value) && value['under'] === undefined && value['at'] === undefined
    ? complain(context, { code: 'gate-without-scope' })
    : true,
);

export const redirectSchema = fields('a redirect', {
  from: column(
    required(text('pattern', 'From', 'an address or a pattern'), 'from: /old'),
    'source',
    'old',
    'oldaddress',
    'oldurl',
    'request',
  ),
  to: column(
    required(text('address', 'To', 'its pieces are filled in'), 'to: /new'),
    'target',
    'destination',
    'new',
    'newaddress',
    'newurl',
  ),
  kind: column(oneOf(['permanent', 'temporary'], 'temporary', 'Kind'), 'type', 'status', 'code'),
  query: column(oneOf(['keep', 'drop'], 'drop', 'Query')),
  when: column(text('condition', 'Only for'), 'condition', 'for'),
  since: column(text('moment', 'Since'), 'begins', 'start'),
  until: column(UNTIL(), 'ends', 'end', 'expires'),
  'unless-page': column(ONLY_WHERE_NO_PAGE()),
  'keep-for': column(text('duration', 'Browsers keep it for', '5m or 24h, if permanent')),
  wait: column(text('duration', 'Waits on a page in between', '5s; with a link'), 'delay'),
  say: column(text('text', 'Words of that page'), 'words'),
  note: column(NOTE(), 'comment', 'reason', 'why'),
  rank: column(RANK(), 'priority'),
});

const rewriteSchema = fields('a rewrite', {
  from: required(text('pattern', 'From', 'an address or a pattern'), 'from: /people/:name'),
  serve: required(
    text('address', 'Served from', '/activity?person=:name'),
    'serve: /activity?person=:name',
  ),
  canonical: flag('no', 'What is served redirects here'),
  when: text('condition', 'Only for'),
  'unless-page': ONLY_WHERE_NO_PAGE(),
  since: text('moment', 'Since'),
  until: UNTIL(),
  note: NOTE(),
  rank: RANK(),
});

const notFoundSchema = fields('a not-found rule', {
  under: required(text('scope', 'Under'), 'under: /'),
  show: text('address', 'Shows the page'),
  say: text('text', 'Or says', '{path.name} is a piece of the address, {rest} what is left of it'),
  status: oneOf([404, 410], 404, 'Status', '404, or 410 for gone'),
  rank: RANK(),
}).test('something', (value, context) =>
  isRecord(value) && value['show'] === undefined && value['say'] === undefined
    ? complain(context, { code: 'not-found-without-content' })
    : true,
);

const landingSchema = fields('a landing', {
  after: required(oneOf(['sign-in', 'sign-out'], null, 'After'), 'after: sign-in'),
  who: text('condition', 'Who'),
  go: required(text('address', 'Go to'), 'go: /'),
  'return-first': flag('no', 'The return address goes first'),
  rank: RANK(),
});

const partSchema = fields('a part', {
  admit: required(text('condition', 'Seen by'), 'admit: signed-in'),
});

const menuSchema = fields('a menu', {
  links: required(textList('address', 'Links'), 'links: [/, /about]'),
  on: textList('scope', 'On the pages under', 'everywhere where empty'),
  shows: oneOf(
    ['everything', 'usable'],
    'everything',
    'Shows',
    'usable: links that this visitor does not reach are left out',
  ),
});

const acceptedSchema = fields('an accepted finding', {
  finding: required(text('finding', 'Finding'), 'finding: tie'),
  about: text('text', 'About', 'all of this kind where empty'),
  note: required(NOTE(), 'note: On purpose, because …'),
});

/** One visitor; the same shape is used for one made up on the spot. */
export const visitorSchema = fields('a visitor', {
  title: column(text('text', 'Title'), 'fullname', 'displayname'),
  guest: column(flag('no', 'A guest, not signed in')),
  id: column(text('text', 'Id', 'the name where empty')),
  roles: column(names('role', 'Roles'), 'role'),
  groups: column(names('group', 'Groups'), 'group'),
  bought: column(
    listOf(purchase, 'bought', 'Purchases', 'purchase'),
    'products',
    'product',
    'purchases',
  ),
  attributes: attributes('Attributes, one a line', 'name: value'),
  language: column(text('text', 'Language'), 'locale'),
});

/**
 * The sections of a site file: what one entry of each is called, what it is for and looks like, and whether
 * entries have names.
 */
export const SECTIONS = {
  roles: {
    is: 'map',
    one: 'role',
    about: 'What people are on this site.',
    entry: textOrNothing('What it is for'),
  },
  groups: {
    is: 'map',
    one: 'group',
    about: 'Who belongs together.',
    entry: textOrNothing('What it is for'),
  },
  products: {
    is: 'map',
    one: 'product',
    about: 'What is sold, and where.',
    entry: productSchema,
  },
  audiences: {
    is: 'map',
    one: 'audience',
    about: 'Conditions that have a name.',
    entry: required(text('condition', 'Condition'), 'crew: role volunteer'),
  },
  pages: { is: 'map', one: 'page', about: 'What the website has.', entry: pageSchema },
  gates: {
    is: 'map',
    one: 'gate',
    about:
      'Whom a page or a section admits, and what happens to everyone else. The nearest gate decides.',
    entry: gateSchema,
  },
  redirects: {
    is: 'list',
    one: 'redirect',
    about: 'Where old addresses redirect to. The most specific applies.',
    entry: redirectSchema,
  },
  'redirect-lists': {
    is: 'list',
    one: 'list of redirects',
    about: 'Files beside the site file with more redirects, in CSV.',
    entry: required(text('text', 'File'), 'redirect-lists: [old-site.csv]'),
  },
  rewrites: {
    is: 'list',
    one: 'rewrite',
    about: 'Readable addresses that are served from others. The most specific applies.',
    entry: rewriteSchema,
  },
  'not-found': {
    is: 'list',
    one: 'not-found rule',
    about: 'What is shown where no page is. The most specific applies.',
    entry: notFoundSchema,
  },
  landings: {
    is: 'list',
    one: 'landing',
    about: 'Where people are taken after signing in or out.',
    entry: landingSchema,
  },
  parts: {
    is: 'map',
    one: 'part',
    about: 'Blocks of pages that only some visitors see.',
    entry: partSchema,
  },
  menus: {
    is: 'map',
    one: 'menu',
    about: 'Links that stand on many pages.',
    entry: menuSchema,
  },
  accepted: {
    is: 'list',
    one: 'acceptance',
    about: 'Findings that are accepted, with the reason.',
    entry: acceptedSchema,
  },
  visitors: {
    is: 'map',
    one: 'visitor',
    about: 'Who the grid is drawn for.',
    entry: visitorSchema,
  },
} as const satisfies {
  [S in SectionName]: {
    is: S extends ListSection ? 'list' : 'map';
    one: string;
    about: string;
    entry: yup.Schema;
  };
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
