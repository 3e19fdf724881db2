/** The sections of a site file whose entries have names. */
export type MapSection =
  | 'roles'
  | 'groups'
  | 'products'
  | 'audiences'
  | 'pages'
  | 'gates'
  | 'parts'
  | 'menus'
  | 'visitors';

/** The sections of a site file that are lists. */
export type ListSection =
  | 'redirects'
  | 'redirect-lists'
  | 'rewrites'
  | 'not-found'
  | 'landings'
  | 'guarantees'
  | 'visits'
  | 'accepted';

export type SectionName = MapSection | ListSection;

/** What one entry of each section is called. */
export const ENTRY_NAMES: Readonly<Record<SectionName, string>> = {
  roles: 'role',
  groups: 'group',
  products: 'product',
  audiences: 'audience',
  pages: 'page',
  gates: 'gate',
  redirects: 'redirect',
  'redirect-lists': 'list of redirects',
  rewrites: 'rewrite',
  'not-found': 'not-found rule',
  landings: 'landing',
  parts: 'part',
  menus: 'menu',
  guarantees: 'guarantee',
  visits: 'expected visit',
  accepted: 'acceptance',
  visitors: 'visitor',
};

/** What has names: the entries of sections, and the fields of `site`. */
export type NamedSection = 'site' | MapSection;
