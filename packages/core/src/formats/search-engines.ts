import XMLBuilder from 'fast-xml-builder';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { literalOf, type Pattern } from '../pattern/pattern.ts';
import type { Page } from '../site/site.ts';
import { GUEST } from '../site/visitor.ts';
import { courseOf } from '../visit/visit.ts';

/** The most addresses that the protocol allows in one file. */
const MOST_LOCATIONS = 50_000;

const builder = new XMLBuilder({ format: true, indentBy: '  ', ignoreAttributes: false });

/** A file that search engines read, at the root of the site. */
export interface EngineFile {
  readonly name: string;
  readonly text: string;
}

/**
 * Writes sitemaps (sitemaps.org, 0.9): the pages that a guest reaches at once and that may be
 * listed. Pages whose address is a pattern are many, and which of them there are no rule tells.
 *
 * @returns `sitemap.xml`; where there are more addresses than one file may have, it is an index and the others follow
 */
export function writeSitemaps(prepared: PreparedSite, at: number): EngineFile[] {
  const { protocol, host } = prepared.site;
  const home = `${protocol}//${host}`;
  const listed = openPages(prepared, at).filter(({ pattern }) => literalOf(pattern) !== null);
  const locations = listed.map(({ example }) => ({ loc: home + example }));
  if (locations.length <= MOST_LOCATIONS)
    return [{ name: 'sitemap.xml', text: sitemapOf('urlset', 'url', locations) }];
  const files = Array.from({ length: Math.ceil(locations.length / MOST_LOCATIONS) }, (_, i) => ({
    name: `sitemap-${i + 1}.xml`,
    text: sitemapOf('urlset', 'url', locations.slice(i * MOST_LOCATIONS, (i + 1) * MOST_LOCATIONS)),
  }));
  const index = files.map(({ name }) => ({ loc: `${home}/${name}` }));
  return [{ name: 'sitemap.xml', text: sitemapOf('sitemapindex', 'sitemap', index) }, ...files];
}

function sitemapOf(root: string, entry: string, locations: readonly { loc: string }[]): string {
  const xml = builder.build({
    '?xml': { '@_version': '1.0', '@_encoding': 'UTF-8' },
    [root]: { '@_xmlns': 'http://www.sitemaps.org/schemas/sitemap/0.9', [entry]: locations },
  });
  return xml.endsWith('\n') ? xml : `${xml}\n`;
}

/**
 * Writes a robots.txt (RFC 9309) that allows what a guest reaches and what may be listed, and nothing
 * else. Only open pages are named in it: a list of what is closed would tell everyone what there is.
 */
export function writeRobots(prepared: PreparedSite, at: number): string {
  const { protocol, host, pages } = prepared.site;
  const open = new Set(openPages(prepared, at));
  const closed = pages.filter((page) => !open.has(page));
  const lines = [...open].flatMap((page) => {
    const rule = ruleFor(page.pattern);
    // Where a pattern would take in a page that is closed, only the address that was tried is allowed.
    const isTooWide = closed.some(({ example }) => matches(rule, example));
    return `Allow: ${isTooWide ? page.example : rule}$`;
  });
  return [
    'User-agent: *',
    ...[...new Set(lines)].sort(),
    'Disallow: /',
    '',
    `Sitemap: ${protocol}//${host}/sitemap.xml`,
    '',
  ].join('\n');
}

/** The pages that a guest reaches without being sent on, and that search engines may list. */
function openPages(prepared: PreparedSite, at: number): Page[] {
  return prepared.site.pages.filter(({ listed, example }) => {
    if (!listed) return false;
    const course = courseOf(prepared, { method: 'GET', address: example }, GUEST, at);
    return course.outcome === 'reach' && course.hops.length === 1;
  });
}

/**
 * A pattern as robots.txt can say it: any text stands for any group. A star in an address stays a star,
 * which stands for any text and so for itself; readers do not agree on an escape for it, nor for a
 * dollar sign, which means something at the end of a rule only (RFC 9309, 2.2.3).
 */
const ruleFor = ({ parts }: Pattern): string =>
  parts.map((part) => (part.is === 'text' ? part.value : `${part.prefix}*${part.suffix}`)).join('');

function matches(rule: string, address: string): boolean {
  const pieces = rule.split('*').map((piece) => piece.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'));
  return new RegExp(`^${pieces.join('.*')}$`).test(address);
}
