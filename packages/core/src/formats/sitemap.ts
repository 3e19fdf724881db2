import { XMLParser } from 'fast-xml-parser';
import { SyntaxValidator } from 'fast-xml-validator';

/** A sitemap by the protocol of sitemaps.org, or an index that names several. */
export type Sitemap =
  | { readonly is: 'urls'; readonly locations: readonly string[] }
  | { readonly is: 'index'; readonly locations: readonly string[] };

/** Why a text is no sitemap. */
export class SitemapProblem extends Error {}

const parser = new XMLParser({
  ignoreAttributes: true,
  removeNSPrefix: true,
  parseTagValue: false,
  trimValues: true,
  isArray: (name) => name === 'url' || name === 'sitemap',
});

/**
 * Reads a sitemap or a sitemap index (sitemaps.org, 0.9).
 * @throws SitemapProblem that says where it is not one
 */
export function readSitemap(xml: string): Sitemap {
  try {
    SyntaxValidator.validate(xml);
  } catch (error) {
    const { message, line, col } = error as { message: string; line: number; col: number };
    throw new SitemapProblem(`This is not XML: line ${line}, column ${col}: ${message}`);
  }
  const root = parser.parse(xml) as Record<
    string,
    { url?: Entry[]; sitemap?: Entry[] } | string | undefined
  >;
  const { urlset, sitemapindex } = root;
  if (sitemapindex !== undefined) {
    return {
      is: 'index',
      locations: locationsOf(typeof sitemapindex === 'string' ? [] : sitemapindex.sitemap),
    };
  }
  if (urlset !== undefined)
    return { is: 'urls', locations: locationsOf(typeof urlset === 'string' ? [] : urlset.url) };
  const [found] = Object.keys(root).filter((name) => name !== '?xml');
  throw new SitemapProblem(
    `This is no sitemap: it holds <${found ?? 'nothing'}>, not <urlset> or <sitemapindex>.`,
  );
}

interface Entry {
  readonly loc?: unknown;
}

function locationsOf(entries: readonly Entry[] = []): string[] {
  return entries.flatMap(({ loc }) => (typeof loc === 'string' && loc !== '' ? [loc] : []));
}
