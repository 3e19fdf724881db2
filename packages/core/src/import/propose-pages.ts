import { titleFromPath } from '../address/title.ts';
import { readAddress } from '../address/address.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { rulesAt } from '../pattern/pattern-index.ts';
import { escapePattern } from '../pattern/escape.ts';
import type { Addition, RejectedRow, Proposal } from './proposal.ts';

/** A page as a sitemap, a crawl or a list knows it. */
export interface FoundPage {
  readonly address: string;
  readonly title?: string | undefined;
  readonly kind?: 'document' | 'file' | undefined;
  readonly listed?: boolean | undefined;
}

const FILE = /\.(?!html?$|php$|aspx?$|jsp$)[a-z0-9]{1,5}$/;

/** Proposes the pages that a list of addresses adds to a site; what is there already is kept. */
export function proposePages(prepared: PreparedSite, found: Iterable<FoundPage>): Proposal {
  const { site, hosts } = prepared;
  const pages = new Map<string, Addition>();
  const refused: RejectedRow[] = [];
  let known = 0;
  let elsewhere = 0;
  for (const page of found) {
    const read = readAddress(page.address, site, site.tidy);
    if (!read.ok)
      refused.push({ what: page.address, line: null, problem: { code: 'not-a-page-address' } });
    else if (!hosts.has(read.address.host)) elsewhere++;
    else if (pages.has(read.address.path) || rulesAt(prepared.pages, read.address.path).length > 0)
      known++;
    else pages.set(read.address.path, addition(read.address.path, page));
  }
  return { additions: [...pages.values()], known, elsewhere, refused };
}

function addition(path: string, page: FoundPage): Addition {
  const title = page.title ?? titleFromPath(path);
  const isFile = page.kind === undefined ? FILE.test(path) : page.kind === 'file';
  const fields = {
    ...(isFile ? { kind: 'file' } : {}),
    ...(page.listed === false ? { listed: 'no' } : {}),
  };
  return {
    section: 'pages',
    name: escapePattern(path),
    value: Object.keys(fields).length > 0 ? { title, ...fields } : title,
  };
}
