/** A field of a form: how one value of an entry is shown and changed. */
export type Field = {
  /** The name in the site file; empty where the entry is nothing but this value. */
  readonly name: string;
  readonly label: string;
  readonly help?: string;
} & (
  | { readonly is: 'text' | 'long-text' | 'date' | 'number' | 'condition' | 'addresses' }
  | { readonly is: 'address' | 'attributes' | 'words' }
  /** Checked where the value is this one. */
  | { readonly is: 'check'; readonly value: 'yes' | 'no' | 'required' }
  /** One of these; the first is what holds where nothing is written. */
  | { readonly is: 'choice'; readonly of: readonly string[] }
  | { readonly is: 'names'; readonly of: 'roles' | 'groups' }
  | { readonly is: 'name'; readonly of: 'products' }
  | { readonly is: 'rows'; readonly of: readonly Field[]; readonly one: string }
  | { readonly is: 'fields'; readonly of: readonly Field[] }
);

/** A part of a site file as the console lists and edits it. */
export interface Section {
  readonly section: EntrySection;
  readonly title: string;
  readonly one: string;
  readonly is: 'map' | 'list';
  readonly fields: readonly Field[];
  /** The fields that the list shows. */
  readonly columns: readonly string[];
  /** Those that it shows beside a form; the first two where nothing is said. */
  readonly brief?: readonly string[];
  readonly about: string;
}

export type EntrySection =
  | 'roles'
  | 'groups'
  | 'products'
  | 'audiences'
  | 'pages'
  | 'gates'
  | 'visitors'
  | 'parts'
  | 'menus'
  | 'landings'
  | 'redirects'
  | 'rewrites'
  | 'not-found';

const FROM: Field = { name: 'from', label: 'From', is: 'date' };
const UNTIL: Field = { name: 'until', label: 'Until', is: 'date', help: 'the first day after' };
const RANK: Field = { name: 'rank', label: 'Rank', is: 'number', help: 'higher goes first' };

export const PAGES: Section = {
  section: 'pages',
  title: 'Pages',
  one: 'page',
  is: 'map',
  about: '',
  columns: [],
  fields: [
    { name: 'title', label: 'Title', is: 'text' },
    { name: 'kind', label: 'Kind', is: 'choice', of: ['document', 'file'] },
    {
      name: 'draft',
      label: 'A draft: only those with full access see it',
      is: 'check',
      value: 'yes',
    },
    { name: 'listed', label: 'Kept from search engines', is: 'check', value: 'no' },
    { name: 'grid', label: 'Left out of the grid and of probes', is: 'check', value: 'no' },
    { name: 'https', label: 'Only over HTTPS', is: 'check', value: 'required' },
    FROM,
    UNTIL,
    { name: 'leads-to', label: 'Leads to', is: 'address', help: 'a page, a file or another site' },
    { name: 'refresh', label: 'Asks for itself again after', is: 'text', help: '60s, 5m or 1h' },
    { name: 'missing-unless', label: 'Missing unless', is: 'condition' },
    { name: 'aliases', label: 'Other addresses, which redirect to it', is: 'addresses' },
    { name: 'example', label: 'Example', is: 'address', help: 'a real address, for a pattern' },
  ],
};

export const GATES: Section = {
  section: 'gates',
  title: 'Gates',
  one: 'gate',
  is: 'map',
  about:
    'Whom a page or a section admits, and what becomes of the others. The nearest gate decides.',
  columns: ['under', 'at', 'right', 'admit', 'otherwise', 'from', 'until', 'narrows', 'rank'],
  brief: ['under', 'admit'],
  fields: [
    { name: 'under', label: 'Under (these and all beneath them)', is: 'addresses' },
    { name: 'at', label: 'At (exactly these)', is: 'addresses' },
    { name: 'right', label: 'Right', is: 'choice', of: ['view', 'change'] },
    { name: 'admit', label: 'Admits', is: 'condition' },
    { name: 'narrows', label: 'The gate above must admit too', is: 'check', value: 'yes' },
    { name: 'full-access', label: 'Full access does not pass here', is: 'check', value: 'no' },
    {
      name: 'otherwise',
      label: 'The others, the first that fits',
      is: 'rows',
      one: 'what becomes of others',
      of: [
        { name: 'who', label: 'Who', is: 'text', help: 'a condition; anyone where empty' },
        {
          name: 'do',
          label: 'What happens',
          is: 'choice',
          of: ['sign-in', 'refuse', 'send', 'offer', 'hide'],
        },
        { name: 'say', label: 'Words, for refuse', is: 'text' },
        { name: 'show', label: 'Page shown, for refuse', is: 'address' },
        { name: 'to', label: 'Where to, for send', is: 'address' },
      ],
    },
    FROM,
    UNTIL,
    RANK,
  ],
};

export const VISITORS: Section = {
  section: 'visitors',
  title: 'Visitors',
  one: 'visitor',
  is: 'map',
  about: 'Who the grid is drawn for.',
  columns: ['title', 'guest', 'roles', 'groups', 'bought', 'attributes'],
  brief: ['roles', 'bought'],
  fields: [
    { name: 'title', label: 'Title', is: 'text' },
    { name: 'guest', label: 'A guest, not signed in', is: 'check', value: 'yes' },
    { name: 'id', label: 'Id', is: 'text', help: 'the name where empty' },
    { name: 'roles', label: 'Roles', is: 'names', of: 'roles' },
    { name: 'groups', label: 'Groups', is: 'names', of: 'groups' },
    {
      name: 'bought',
      label: 'Purchases',
      is: 'rows',
      one: 'purchase',
      of: [
        { name: 'product', label: 'Product', is: 'name', of: 'products' },
        FROM,
        UNTIL,
        { name: 'refunded', label: 'Refunded', is: 'check', value: 'yes' },
        { name: 'paused', label: 'Paused', is: 'check', value: 'yes' },
      ],
    },
    { name: 'attributes', label: 'Attributes, one a line', is: 'attributes', help: 'name: value' },
    { name: 'language', label: 'Language', is: 'text' },
  ],
};

const ROLES: Section = {
  section: 'roles',
  title: 'Roles',
  one: 'role',
  is: 'map',
  about: 'What people are on this site.',
  columns: [''],
  fields: [{ name: '', label: 'What it is for', is: 'text' }],
};

const GROUPS: Section = {
  ...ROLES,
  section: 'groups',
  title: 'Groups',
  one: 'group',
  about: 'Who belongs together.',
};

const PRODUCTS: Section = {
  section: 'products',
  title: 'Products',
  one: 'product',
  is: 'map',
  about: 'What is sold, and where.',
  columns: ['title', 'term', 'buy-at'],
  fields: [
    { name: 'title', label: 'Title', is: 'text' },
    { name: 'term', label: 'Term', is: 'choice', of: ['once', 'subscription'] },
    { name: 'buy-at', label: 'Sold at', is: 'address' },
  ],
};

const AUDIENCES: Section = {
  section: 'audiences',
  title: 'Audiences',
  one: 'audience',
  is: 'map',
  about: 'Conditions that have a name.',
  columns: [''],
  fields: [{ name: '', label: 'Condition', is: 'condition' }],
};

const LANDINGS: Section = {
  section: 'landings',
  title: 'Landings',
  one: 'landing',
  is: 'list',
  about: 'Where people are taken after signing in or out.',
  columns: ['after', 'who', 'go', 'return-first', 'rank'],
  fields: [
    { name: 'after', label: 'After', is: 'choice', of: ['sign-in', 'sign-out'] },
    { name: 'who', label: 'Who', is: 'condition' },
    { name: 'go', label: 'Go to', is: 'address' },
    {
      name: 'return-first',
      label: 'The page first asked for comes first',
      is: 'check',
      value: 'yes',
    },
    RANK,
  ],
};

const PARTS: Section = {
  section: 'parts',
  title: 'Parts',
  one: 'part',
  is: 'map',
  about: 'Blocks of pages that only some visitors see.',
  columns: ['admit'],
  fields: [{ name: 'admit', label: 'Seen by', is: 'condition' }],
};

const MENUS: Section = {
  section: 'menus',
  title: 'Menus',
  one: 'menu',
  is: 'map',
  about: 'Links that stand on many pages.',
  columns: ['links', 'on', 'shows'],
  fields: [
    { name: 'links', label: 'Links', is: 'addresses' },
    { name: 'on', label: 'On the pages under', is: 'addresses', help: 'everywhere where empty' },
    {
      name: 'shows',
      label: 'Shows',
      is: 'choice',
      of: ['everything', 'usable'],
      help: 'usable: what leads this visitor nowhere is left out',
    },
  ],
};

export const REDIRECTS: Section = {
  section: 'redirects',
  title: 'Redirects',
  one: 'redirect',
  is: 'list',
  about: 'Where old addresses lead. The most specific applies.',
  columns: ['from', 'to', 'kind', 'query', 'when', 'since', 'until', 'note'],
  brief: ['from', 'to'],
  fields: [
    { name: 'from', label: 'From', is: 'text', help: 'an address or a pattern' },
    { name: 'to', label: 'To', is: 'address', help: 'its pieces are filled in' },
    { name: 'kind', label: 'Kind', is: 'choice', of: ['temporary', 'permanent'] },
    { name: 'query', label: 'Query', is: 'choice', of: ['drop', 'keep'] },
    { name: 'when', label: 'Only for', is: 'condition' },
    { name: 'since', label: 'Since', is: 'date' },
    UNTIL,
    {
      name: 'keep-for',
      label: 'Browsers keep it for',
      is: 'text',
      help: '5m or 24h, if permanent',
    },
    { name: 'unless-page', label: 'Only where no page is', is: 'check', value: 'yes' },
    { name: 'wait', label: 'Waits on a page in between', is: 'text', help: '5s; with a link' },
    { name: 'say', label: 'Words of that page', is: 'text' },
    { name: 'note', label: 'Note', is: 'text', help: 'why, for whoever comes next' },
    RANK,
  ],
};

const REWRITES: Section = {
  section: 'rewrites',
  title: 'Rewrites',
  one: 'rewrite',
  is: 'list',
  about: 'Readable addresses that are served from others. The most specific applies.',
  columns: ['from', 'serve', 'canonical', 'when', 'note'],
  brief: ['from', 'serve'],
  fields: [
    { name: 'from', label: 'From', is: 'text', help: 'an address or a pattern' },
    { name: 'serve', label: 'Served from', is: 'address', help: '/activity?person=:name' },
    {
      name: 'canonical',
      label: 'Whoever asks for what is served is redirected here',
      is: 'check',
      value: 'yes',
    },
    { name: 'when', label: 'Only for', is: 'condition' },
    { name: 'unless-page', label: 'Only where no page is', is: 'check', value: 'yes' },
    { name: 'since', label: 'Since', is: 'date' },
    UNTIL,
    { name: 'note', label: 'Note', is: 'text', help: 'why, for whoever comes next' },
    RANK,
  ],
};

const NOT_FOUND: Section = {
  section: 'not-found',
  title: 'Not found',
  one: 'not-found rule',
  is: 'list',
  about: 'What is shown where nothing is. The most specific applies.',
  columns: ['under', 'show', 'say', 'status'],
  fields: [
    { name: 'under', label: 'Under', is: 'address' },
    { name: 'show', label: 'Shows the page', is: 'address' },
    {
      name: 'say',
      label: 'Or says',
      is: 'text',
      help: '{path.name} is a piece of the address, {rest} what is left of it',
    },
    { name: 'status', label: 'Status', is: 'number', help: '404, or 410 for gone' },
    RANK,
  ],
};

/** The sections that share a page of the console, in the order of its tabs. */
export const NAMES: readonly Section[] = [ROLES, GROUPS, PRODUCTS, AUDIENCES];
export const IN_SITE: readonly Section[] = [LANDINGS, MENUS, PARTS];

export const ADDRESSES: readonly Section[] = [REDIRECTS, REWRITES, NOT_FOUND];

/** The settings of the site itself. */
export const SITE_FIELDS: readonly Field[] = [
  { name: 'name', label: 'Name', is: 'text' },
  { name: 'address', label: 'Address', is: 'text', help: 'protocol and host' },
  { name: 'also', label: 'Other hosts, which redirect to it', is: 'addresses' },
  {
    name: 'ungated',
    label: 'Pages without a gate are',
    is: 'choice',
    of: ['open', 'closed'],
    help: 'closed: to guests',
  },
  {
    name: 'undeclared',
    label: 'Addresses that no page has',
    is: 'choice',
    of: ['missing', 'website'],
    help: 'website: it is asked, where the gates admit',
  },
  {
    name: 'change',
    label: 'Who may change a page without a gate for changes',
    is: 'choice',
    of: ['as-view', 'gated-only'],
    help: 'as-view: whoever may view it; gated-only: nobody',
  },
  { name: 'sign-in', label: 'Guests sign in at', is: 'address' },
  {
    name: 'servers',
    label: 'Other servers that rewrites may serve from',
    is: 'addresses',
  },
  { name: 'full-access', label: 'Admitted everywhere', is: 'condition' },
  {
    name: 'full-access-right',
    label: 'What those may do',
    is: 'choice',
    of: ['change', 'view'],
    help: 'view: only look; change: both',
  },
  {
    name: 'tidy',
    label: 'One form of each address',
    is: 'fields',
    of: [
      { name: 'case', label: 'Letter case', is: 'choice', of: ['lower', 'keep'] },
      { name: 'final-slash', label: 'Final slash', is: 'choice', of: ['drop', 'add', 'keep'] },
      { name: 'endings', label: 'Endings dropped', is: 'words', help: 'such as .html' },
      {
        name: 'index',
        label: 'Index names',
        is: 'words',
        help: 'index, or an address of the home page such as /home',
      },
      { name: 'words', label: 'Between words', is: 'choice', of: ['keep', '-', '_'] },
    ],
  },
  { name: 'time-zone', label: 'Time zone', is: 'text', help: 'such as Europe/London' },
];
