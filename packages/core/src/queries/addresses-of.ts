import { readAddress } from '../address/address.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { servedExample } from '../decision/rewrite.ts';
import { exampleOf, exampleOfRedirect } from '../pattern/example.ts';
import { literalOf } from '../model/pattern.ts';
import type { Page } from '../model/site.ts';
import type { Visitor } from '../model/visitor.ts';
import { followRedirects, redirectsOf, type Outcome } from '../visit/visit.ts';
import { pageAt, pathOf } from '../decision/page-at.ts';

/** One of the addresses of a page, and where it leads. */
export interface PageAddress {
  readonly address: string;
  /** What makes it an address of the page. */
  readonly by: 'primary' | 'alias' | 'home' | 'redirect' | 'rewrite' | 'spelling';
  readonly outcome: Outcome;
  readonly final: string;
  readonly hops: number;
}

const MOST_REDIRECTS = 200;

/**
 * All addresses of a page: the primary one, aliases, redirects that lead to it, rewrites that show it,
 * and a few other spellings; each with how a visit to it ends.
 *
 * @param at the moment, in milliseconds since 1970
 * @returns null where no page is
 */
export function addressesOf(
  prepared: PreparedSite,
  address: string,
  visitor: Visitor,
  at: number,
): PageAddress[] | null {
  const page = pageAt(prepared, address)?.rule.page;
  if (!page) return null;
  const { site } = prepared;
  const path = pathOf(prepared, page);
  const leadsHere = (target: string): boolean => {
    const read = readAddress(target.replace(/[#?].*$/s, ''), site, site.tidy);
    return read.ok && read.address.host === site.host && read.address.path === path;
  };
  const redirects = site.redirects
    .filter(({ to }) => literalOf(to.path) !== null && leadsHere(to.text))
    .slice(0, MOST_REDIRECTS);
  const all = [
    [page.example, 'primary'],
    ...page.aliases.map((one) => [one, 'alias'] as const),
    ...(page.address === '/' ? site.homes.map((one) => [one, 'home'] as const) : []),
    ...redirects.map((one) => [exampleOfRedirect(one), 'redirect'] as const),
    ...site.rewrites
      .filter((one) => servedExample(prepared, one)?.path === path)
      .map((one) => [exampleOf(one.pattern, null), 'rewrite'] as const),
    ...spellingsOf(prepared, page).map((one) => [one, 'spelling'] as const),
  ] as const;
  return all.map(([one, by]) => {
    const ended = followRedirects(prepared, { method: 'GET', address: one }, visitor, at);
    const { outcome, final } = ended;
    return { address: one, by, outcome, final, hops: redirectsOf(ended) };
  });
}

/** How people write the address besides: with a slash at the end, in capitals, with an ending or an index name. */
function spellingsOf({ site }: PreparedSite, { example, kind }: Page): string[] {
  const { endings, index } = site.tidy;
  const base = example === '/' ? '' : example;
  return [
    ...(example === '/' || kind === 'file' ? [] : [`${base}/`]),
    ...(example === example.toUpperCase() ? [] : [example.toUpperCase()]),
    ...(example === '/' || kind === 'file' ? [] : endings.map((one) => example + one)),
    ...(kind === 'file' ? [] : index.map((one) => `${base}/${one}`)),
    ...site.also.map((host) => `${site.protocol}//${host}${example}`),
  ];
}
