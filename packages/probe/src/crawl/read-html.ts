import type { proposals } from '@kleidon/core';
import { Parser } from 'htmlparser2';

/** What a crawl takes from an HTML page. */
export interface HtmlPage {
  readonly title: string | null;
  /** What the page calls its website; null where it does not. */
  readonly siteName: string | null;
  /** Whole addresses, without fragments. */
  readonly links: readonly string[];
  readonly menus: readonly proposals.FoundMenu[];
  /** Search engines may list it. */
  readonly listed: boolean;
  /** Its links may be followed. */
  readonly follow: boolean;
}

interface OpenMenu {
  readonly name: string | null;
  readonly label: string;
  readonly links: Set<string>;
  readonly depth: number;
}

const MAX_TITLE = 200;
/** Longer than any address that servers take by default, in characters. */
const LONGEST_LINK = 8_000;
/** Of one page. */
const MOST_LINKS = 5_000;
const MOST_MENUS = 100;
/** How pages name their website, in the order of trust. */
const SITE_NAMES = ['og:site_name', 'application-name'];
/** What a mark may call a menu here; others are taken for menus without a name. */
const MENU_NAME = /^[\p{L}\p{N}][\p{L}\p{N}_ .-]{0,99}$/u;
const LINKS: Readonly<Record<string, string>> = {
  a: 'href',
  area: 'href',
  iframe: 'src',
  frame: 'src',
};

/**
 * Reads an HTML page (HTML Living Standard; XHTML too) for its title, links and navigation.
 * @param address where it was found, against which its links are resolved
 */
export function readHtml(html: string, address: string): HtmlPage {
  let base = address;
  const titles: string[] = [];
  let robots = '';
  const links = new Set<string>();
  const siteNames = new Map<string, string>();
  const menus: OpenMenu[] = [];
  const open: OpenMenu[] = [];
  let depth = 0;
  let titlesOpen = 0;

  const parser = new Parser(
    {
      onopentag: (name, attributes) => {
        depth++;
        if (name === 'title') {
          titles.push('');
          titlesOpen++;
        }
        if (name === 'base') base = resolved(attributes['href'] ?? '', base) ?? base;
        if (name === 'meta') {
          const about = (attributes['name'] ?? attributes['property'] ?? '').toLowerCase();
          if (about === 'robots') robots = attributes['content']?.toLowerCase() ?? '';
          if (SITE_NAMES.includes(about)) siteNames.set(about, attributes['content'] ?? '');
        }
        const mark = attributes['data-kleidon-menu'];
        const isMenu = name === 'nav' || attributes['role'] === 'navigation' || mark !== undefined;
        if (isMenu && menus.length < MOST_MENUS) {
          const menu = {
            name: mark !== undefined && MENU_NAME.test(mark) ? mark : null,
            label: attributes['aria-label'] ?? attributes['id'] ?? '',
            links: new Set<string>(),
            depth,
          };
          menus.push(menu);
          open.push(menu);
        }
        const source = LINKS[name];
        const given = source === undefined ? '' : (attributes[source] ?? '');
        const link = given && links.size < MOST_LINKS ? resolved(given, base) : null;
        if (link === null) return;
        links.add(link);
        if (name === 'a') open.at(-1)?.links.add(link);
      },
      ontext: (text) => {
        if (titlesOpen > 0) titles.push(titles.pop()! + text);
      },
      onclosetag: (name) => {
        if (name === 'title') titlesOpen--;
        if (open.at(-1)?.depth === depth) open.pop();
        depth--;
      },
    },
    { decodeEntities: true, lowerCaseTags: true },
  );
  parser.end(html);
  return {
    title: plainTitle(titles[0]),
    siteName: plainTitle(SITE_NAMES.map((one) => siteNames.get(one)).find(Boolean)),
    links: [...links],
    menus: menus
      .filter(({ name, links: inMenu }) => name !== null || inMenu.size > 1)
      .map(({ name, label, links: inMenu }) => ({ name, label, links: [...inMenu] })),
    listed: !/\b(noindex|none)\b/.test(robots),
    follow: !/\b(nofollow|none)\b/.test(robots),
  };
}

const plainTitle = (text = ''): string | null =>
  text.replace(/\s+/g, ' ').trim().slice(0, MAX_TITLE) || null;

function resolved(link: string, base: string): string | null {
  if (link.length > LONGEST_LINK || !URL.canParse(link.trim(), base)) return null;
  const url = new URL(link.trim(), base);
  url.hash = '';
  return url.href.length > LONGEST_LINK ? null : url.href;
}
