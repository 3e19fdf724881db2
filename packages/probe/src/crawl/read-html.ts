import { Parser } from 'htmlparser2';

/** What a crawl takes from an HTML page. */
export interface HtmlPage {
  readonly title: string | null;
  /** Whole addresses, without fragments. */
  readonly links: readonly string[];
  readonly menus: readonly HtmlMenu[];
  /** Search engines may list it. */
  readonly listed: boolean;
  /** Its links may be followed. */
  readonly follow: boolean;
}

/** A list of links that the page itself calls its navigation. */
export interface HtmlMenu {
  /** What the page calls it; empty where it does not. */
  readonly label: string;
  readonly links: readonly string[];
}

const MAX_TITLE = 200;
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
  const menus: { label: string; links: Set<string>; depth: number }[] = [];
  const open: { label: string; links: Set<string>; depth: number }[] = [];
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
        if (name === 'meta' && attributes['name']?.toLowerCase() === 'robots')
          robots = attributes['content']?.toLowerCase() ?? '';
        if (name === 'nav' || attributes['role'] === 'navigation') {
          const menu = {
            label: attributes['aria-label'] ?? attributes['id'] ?? '',
            links: new Set<string>(),
            depth,
          };
          menus.push(menu);
          open.push(menu);
        }
        const source = LINKS[name];
        const link = source && attributes[source] ? resolved(attributes[source], base) : null;
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
    title: (titles[0] ?? '').replace(/\s+/g, ' ').trim().slice(0, MAX_TITLE) || null,
    links: [...links],
    menus: menus
      .filter((menu) => menu.links.size > 1)
      .map(({ label, links: inMenu }) => ({ label, links: [...inMenu] })),
    listed: !/\b(noindex|none)\b/.test(robots),
    follow: !/\b(nofollow|none)\b/.test(robots),
  };
}

function resolved(link: string, base: string): string | null {
  if (!URL.canParse(link.trim(), base)) return null;
  const url = new URL(link.trim(), base);
  url.hash = '';
  return url.href;
}
