import type { PreparedSite } from '../decision/prepared-site.ts';
import type { Pattern } from '../model/pattern.ts';
import type { Page, Scope } from '../model/site.ts';
import type { Groups } from '../pattern/fill.ts';
import { lookUp, rulesAt } from '../pattern/pattern-index.ts';

/** The addresses of a pattern, or those of them that nothing else claims. */
export interface AddressSet {
  readonly pattern: Pattern;
  /** One of them. */
  readonly example: string;
  /** Whether a path that the pattern matches is one of them. */
  owns(path: string): boolean;
  /** What the groups of the pattern took of a path that it matches. */
  groupsOf(path: string): Groups;
  /** Rules whose addresses are none of these, so that they cut nothing. */
  readonly elsewhere?: ReadonlySet<Scope>;
}

/** The addresses of a page. An alias of another page is none of them, even if the pattern matches it. */
export const addressesOfPage = (prepared: PreparedSite, page: Page): AddressSet => ({
  pattern: page.pattern,
  example: page.example,
  owns: (path) => !prepared.primary.has(path) && rulesAt(prepared.pages, path)[0]?.page === page,
  groupsOf: (path) => lookUp(prepared.pages, path)[0]!.groups,
});
