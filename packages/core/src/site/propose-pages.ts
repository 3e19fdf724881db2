import { readAddress } from '../address/address.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { decodePathText } from '../pattern/canonical.ts';
import { lookUp } from '../pattern/index-of-patterns.ts';
import { escapePattern } from '../pattern/parse.ts';
import type { NewPage } from './add-pages.ts';

/** What of a list of addresses is new to a site, and what became of the others. */
export interface Proposal {
  readonly pages: readonly NewPage[];
  /** Addresses that a page of the site has already, or a pattern covers. */
  readonly known: number;
  /** Addresses of other hosts. */
  readonly elsewhere: number;
  /** What is no address, with why. */
  readonly refused: readonly string[];
}

const FILE = /\.(?!html?$|php$|aspx?$|jsp$)[a-z0-9]{1,5}$/;

/** Proposes the pages that a list of addresses adds to a site; what is there already is kept. */
export function proposePages(prepared: PreparedSite, addresses: Iterable<string>): Proposal {
  const { site, hosts, ignoreCase } = prepared;
  const pages = new Map<string, NewPage>();
  const refused: string[] = [];
  let known = 0;
  let elsewhere = 0;
  for (const text of addresses) {
    const read = readAddress(text, site, ignoreCase);
    if (!read.ok) refused.push(text);
    else if (!hosts.has(read.address.host)) elsewhere++;
    else if (pages.has(read.address.path) || lookUp(prepared.pages, read.address.path).length > 0)
      known++;
    else pages.set(read.address.path, newPage(read.address.path));
  }
  return { pages: [...pages.values()], known, elsewhere, refused };
}

function newPage(path: string): NewPage {
  const address = escapePattern(path);
  const title = titleFrom(path);
  return FILE.test(path) ? { address, title, kind: 'file' } : { address, title };
}

function titleFrom(path: string): string {
  const last = decodePathText(path).split('/').filter(Boolean).at(-1);
  if (last === undefined) return 'Home';
  const words =
    last
      .replace(/\.[a-z0-9]+$/i, '')
      .replace(/[-_]+/g, ' ')
      .trim() || last;
  return words.charAt(0).toUpperCase() + words.slice(1);
}
