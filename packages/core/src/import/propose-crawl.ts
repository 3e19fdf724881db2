import { readAddress } from '../address/address.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { proposePages, type FoundPage } from './propose-pages.ts';
import type { Addition, Proposal, RejectedRow } from './proposal.ts';

/** Navigation links of a page. */
export interface FoundMenu {
  /** The value of `data-kleidon-menu`. Null without the attribute. */
  readonly name: string | null;
  /** The accessible name or the id. Can be empty. */
  readonly label: string;
  readonly links: readonly string[];
}

/** The result of a crawl. */
export interface Crawl {
  /** Protocol and host of the crawled website. */
  readonly origin: string;
  /** The name of the website in the metadata of its pages. Null if there is none. */
  readonly siteName: string | null;
  readonly pages: readonly FoundPage[];
  /** The navigation of each page that has any. */
  readonly menus: readonly { readonly on: string; readonly menus: readonly FoundMenu[] }[];
}

/** An unmarked menu must be on this many pages. */
const LEAST_PAGES = 3;
const MOST_MENUS = 20;

/** Proposes the pages and menus that a crawl adds to a site. */
export function proposeCrawl(prepared: PreparedSite, crawl: Crawl): Proposal {
  const shared = sharedTitlePart(crawl.pages);
  const found = crawl.pages
    .map((page) => ({ ...page, title: withoutPart(page.title, shared) }))
    .sort((a, b) => (a.address < b.address ? -1 : 1));
  const pages = proposePages(prepared, found);
  const names = new Set(prepared.site.menus.map(({ name }) => name));
  const menus = proposeMenus(prepared, crawl).filter(({ addition }) => !names.has(addition.name));
  return {
    ...pages,
    additions: [...pages.additions, ...menus.map(({ addition }) => addition)],
    refused: [...pages.refused, ...menus.flatMap(({ refused }) => refused)],
  };
}

/** The name of a website: from its metadata, the shared part of its titles, or the title of the first page. */
export function nameOfWebsite({ siteName, pages }: Crawl): string | null {
  return siteName ?? sharedTitlePart(pages)?.name ?? pages[0]?.title ?? null;
}

interface TitlePart {
  /** The part with its separator, such as ` | Heron Club`. */
  readonly text: string;
  readonly name: string;
  readonly isLast: boolean;
}

const FIRST_PART = /^(.+?)(?:\s+[-–—|·•»/]\s+|:\s+)/;
const LAST_PART = /\s+[-–—|·•»/«]\s+((?:(?!\s[-–—|·•»/«]\s).)+)$/;

/**
 * The shared start or end of the titles. Null if they share nothing. One page, or 10 % of the pages, may have another
 * title, such as the sign-in page.
 */
function sharedTitlePart(pages: readonly FoundPage[]): TitlePart | null {
  const titles = pages.flatMap(({ title }) => (title === undefined ? [] : [title]));
  const parts = new Map<string, { part: TitlePart; count: number }>();
  for (const title of titles) {
    const [first, last] = [FIRST_PART.exec(title), LAST_PART.exec(title)];
    for (const [match, isLast] of [[first, false] as const, [last, true] as const]) {
      if (match === null) continue;
      const part = { text: match[0], name: match[1]!, isLast };
      const known = parts.get(JSON.stringify(part));
      if (known) known.count++;
      else parts.set(JSON.stringify(part), { part, count: 1 });
    }
  }
  const [most] = [...parts.values()].sort((a, b) => b.count - a.count);
  if (most === undefined || most.count < 2) return null;
  const bare = titles.filter((title) => title === most.part.name).length;
  const others = titles.length - most.count - bare;
  return others <= Math.max(most.count > 2 ? 1 : 0, titles.length / 10) ? most.part : null;
}

function withoutPart(title: string | undefined, part: TitlePart | null): string | undefined {
  if (title === undefined || part === null) return title;
  const { text, isLast } = part;
  if (isLast) return title.endsWith(text) ? title.slice(0, -text.length) : title;
  return title.startsWith(text) ? title.slice(text.length) : title;
}

interface Seen {
  readonly name: string | null;
  readonly label: string;
  readonly links: Set<string>;
  readonly on: string[];
}

/** The menus of a website: marked elements, and navigation with the same links on several pages. */
function proposeMenus(
  prepared: PreparedSite,
  { menus, pages, origin }: Crawl,
): { addition: Addition; refused: RejectedRow[] }[] {
  const seen = new Map<string, Seen>();
  for (const { on, menus: onPage } of menus) {
    for (const { name, label, links } of onPage) {
      const paths = links
        .filter((link) => /^https?:/.test(link))
        .map((link) => pathOf(link, origin));
      const key = JSON.stringify(name ?? paths);
      const known = seen.get(key) ?? { name, label, links: new Set(), on: [] };
      for (const path of paths) known.links.add(path);
      known.on.push(on);
      seen.set(key, known);
    }
  }
  const there = new Set(pages.map(({ address }) => address));
  const all = [...seen.values()]
    .filter(({ name, on }) => name !== null || on.length >= LEAST_PAGES)
    .sort((a, b) => Number(b.name !== null) - Number(a.name !== null) || b.on.length - a.on.length)
    .slice(0, MOST_MENUS);
  const taken = new Set<string>();
  return all.map(({ name: marked, label, links, on }) => {
    const name = marked ?? freeName(label, taken);
    taken.add(name);
    const section = sectionOf(on);
    const isSection = section !== '/' && there.has(section);
    const isAddress = (link: string): boolean =>
      readAddress(link, prepared.site, prepared.site.tidy).ok;
    const value = {
      ...(isSection ? { on: section } : {}),
      links: [...links].filter((link) => isAddress(link)),
    };
    const refused = [...links]
      .filter((link) => !isAddress(link))
      .map((what) => ({ what, line: null, problem: { code: 'menu-link' as const, menu: name } }));
    return { addition: { section: 'menus', name, value }, refused };
  });
}

function pathOf(link: string, origin: string): string {
  const url = new URL(link);
  return url.origin === origin ? url.pathname + url.search : url.href;
}

function freeName(label: string, taken: ReadonlySet<string>): string {
  const plain =
    label
      .toLowerCase()
      .replace(/[^\p{L}\p{N}]+/gu, '-')
      .replace(/^-|-$/g, '') || 'menu';
  let name = plain;
  for (let i = 2; taken.has(name); i++) name = `${plain}-${i}`;
  return name;
}

/** The deepest section that contains all these addresses. */
function sectionOf(addresses: readonly string[]): string {
  const [first = '', ...others] = addresses.map((address) => address.split('/'));
  const steps = [...first];
  const isShared = (count: number): boolean =>
    others.every((other) => steps.slice(0, count).every((step, i) => step === other[i]));
  let shared = steps.length;
  while (shared > 1 && !isShared(shared)) shared--;
  return steps.slice(0, shared).join('/') || '/';
}
