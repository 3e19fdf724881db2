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
  'redirects' | 'redirect-lists' | 'rewrites' | 'not-found' | 'landings' | 'accepted';

export type SectionName = MapSection | ListSection;

/** What has names: the entries of sections, and the fields of `site`. */
export type NamedSection = 'site' | MapSection;
