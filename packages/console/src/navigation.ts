/** A page of a site in the console: its path below the site's own, and its title. */
export type PageLink = readonly [path: string, title: string];

/** What people come to do, with the pages for it; the first is where the task begins. */
export interface Task {
  readonly title: string;
  readonly pages: readonly [PageLink, ...PageLink[]];
}

/** By task, in the order in which people come to each. */
export const TASKS: readonly Task[] = [
  { title: 'Overview', pages: [['', 'Overview']] },
  {
    title: 'Reach',
    pages: [
      ['/reach', 'Grid'],
      ['/reach/kinds', 'Kinds of visitors'],
      ['/reach/address', 'Try an address'],
      ['/reach/list', 'Try a list of addresses'],
      ['/reach/expected', 'Expected visits'],
    ],
  },
  { title: 'Pages', pages: [['/pages', 'Pages']] },
  {
    title: 'Access',
    pages: [
      ['/access/gates', 'Gates'],
      ['/access/audiences', 'Audiences'],
      ['/access/roles', 'Roles'],
      ['/access/groups', 'Groups'],
      ['/access/parts', 'Parts'],
      ['/access/menus', 'Menus'],
      ['/access/landings', 'Landings'],
      ['/access/guarantees', 'Guarantees'],
    ],
  },
  {
    title: 'Addresses',
    pages: [
      ['/addresses/redirects', 'Redirects'],
      ['/addresses/lists', 'Lists'],
      ['/addresses/rewrites', 'Rewrites'],
      ['/addresses/not-found', 'Not found'],
    ],
  },
  {
    title: 'Visitors and products',
    pages: [
      ['/visitors', 'Visitors'],
      ['/visitors/products', 'Products'],
      ['/visitors/purchases', 'Purchases'],
      ['/visitors/buyers', 'Buyers'],
      ['/visitors/events', 'Events of shops'],
    ],
  },
  {
    title: 'Live',
    pages: [
      ['/live', 'Now'],
      ['/live/misses', 'Missing addresses'],
      ['/live/redirects', 'Redirects in use'],
      ['/live/sessions', 'Sessions'],
      ['/live/probe', 'Probe'],
    ],
  },
  {
    title: 'Releases',
    pages: [
      ['/releases', 'Releases'],
      ['/releases/compare', 'Compare'],
      ['/releases/history', 'Draft history'],
    ],
  },
  {
    title: 'Site file',
    pages: [
      ['/file', 'Site file'],
      ['/file/settings', 'Settings'],
      ['/file/deletion', 'Deletion'],
    ],
  },
];

/** Pages outside all tasks. */
const OTHER_PAGES: readonly PageLink[] = [['/review', 'Review']];

/** Returns the title of the page at a path below the site's own. */
export const titleAt = (path: string): string =>
  [...TASKS.flatMap(({ pages }) => pages), ...OTHER_PAGES].find(([own]) => own === path)?.[1] ??
  'Nothing at this address';

/** The task that a path below the site's own belongs to. */
export const taskAt = (path: string): Task | undefined =>
  TASKS.find(({ pages }) => pages.some(([own]) => own === path));
