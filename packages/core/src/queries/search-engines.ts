import XMLBuilder from 'fast-xml-builder';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { literalOf, type Pattern } from '../model/pattern.ts';
import type { Page } from '../model/site.ts';
import { decide } from '../decision/decide.ts';
import { exampleOf } from '../pattern/example.ts';
import { isOpenToEngines } from '../reach/open-to-engines.ts';
import { GUEST } from '../model/visitor.ts';

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
 * @param at the moment, in milliseconds since 1970
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
 * Writes a robots.txt (RFC 9309) that allows everything and names the sitemap. Gates protect what is closed;
 * what a crawler may not ask for, it can't see redirects, `noindex` or style sheets of either.
 *
 * @param disallowClosed also lists the sections that are closed to guests: whoever reads the file then knows of them
 * @param at the moment, in milliseconds since 1970
 */
export function writeRobots(
  prepared: PreparedSite,
  at: number,
  { disallowClosed = false }: { readonly disallowClosed?: boolean } = {},
): string {
  const { protocol, host } = prepared.site;
  const closed = disallowClosed ? closedSections(prepared, at) : [];
  return [
    'User-agent: *',
    ...closed.map((rule) => `Disallow: ${rule}`),
    ...openWithin(prepared, closed, at).map((rule) => `Allow: ${rule}`),
    ...(closed.length === 0 ? ['Allow: /'] : []),
    '',
    `Sitemap: ${protocol}//${host}/sitemap.xml`,
    '',
  ].join('\n');
}

/** The addresses of gates that turn guests away, as robots.txt can say them. */
function closedSections(prepared: PreparedSite, at: number): string[] {
  const rules = prepared.site.gates
    .filter(({ right }) => right === 'view')
    .flatMap(({ scopes: scopes }) => scopes)
    .filter(({ pattern }) => {
      const request = { method: 'GET', address: exampleOf(pattern, null) };
      const { outcome, reasons } = decide(prepared, request, GUEST, at);
      // What is hidden stays so: nothing is to be found there anyway.
      if (outcome === 'missing') return false;
      return reasons.some(({ stage, verdict }) => stage === 'gate' && verdict === 'refused');
    })
    .flatMap(({ pattern, under }) => {
      const rule = ruleFor(pattern);
      // A rule is for everything that begins so: /crew would be for /crewel too.
      if (rule === '/') return under ? ['/'] : ['/$'];
      return under ? [`${rule}$`, `${rule}/`] : [`${rule}$`];
    });
  const all = [...new Set(rules)].sort();
  return all.filter((rule) => !all.some((other) => other !== rule && covers(other, rule)));
}

/** The open pages that stand in closed sections: the longer rule wins (RFC 9309, 2.2.2). */
function openWithin(prepared: PreparedSite, closed: readonly string[], at: number): string[] {
  const open = openPages(prepared, at)
    .filter(({ example }) => closed.some((rule) => covers(rule, example)))
    .map(({ pattern }) => `${ruleFor(pattern)}$`);
  return [...new Set(open)].sort();
}

/** Whether a rule is for an address (RFC 9309, 2.2.3). */
function covers(rule: string, address: string): boolean {
  const pieces = rule.replace(/\$$/, '').split('*');
  const source = pieces.map((piece) => piece.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')).join('.*');
  return new RegExp(`^${source}${rule.endsWith('$') ? '$' : ''}`).test(address);
}

/** The pages that search engines may list. */
const openPages = (prepared: PreparedSite, at: number): Page[] =>
  prepared.site.pages.filter((page) => isOpenToEngines(prepared, page, at));

/**
 * A pattern as robots.txt can say it: any text stands for any group. A star in an address stays a star,
 * which stands for any text and so for itself; readers do not agree on an escape for it, nor for a
 * dollar sign, which means something at the end of a rule only (RFC 9309, 2.2.3).
 */
const ruleFor = ({ parts }: Pattern): string =>
  parts.map((part) => (part.is === 'text' ? part.value : `${part.prefix}*${part.suffix}`)).join('');
