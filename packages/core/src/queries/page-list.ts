import { pageAt } from '../decision/page-at.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { familyOf, type Family } from '../explore/families.ts';
import { Explorer } from '../explore/explorer.ts';
import { inTreeOrder } from '../grid/grid.ts';
import type { Gate, Page } from '../model/site.ts';
import { reachOf } from '../reach/reach.ts';
import { printScope } from '../wording/reason.ts';
import { reachInWords, settled, type WhoReaches } from './who-reaches.ts';

/** A page as the list of pages shows it. */
export interface ListedPage extends Omit<
  WhoReaches,
  'condition' | 'example' | 'endings' | 'families'
> {
  readonly parent: string | null;
  readonly kind: 'document' | 'file';
  readonly state: 'there' | 'draft' | 'closed';
  /** Whether search engines may list it. */
  readonly listed: boolean;
  readonly line: number;
  /** Where the gates that have a say stand, in the order of `gates`: such as `under /crew`. */
  readonly gatesFrom: readonly string[];
  /** The menus and landings that link to it: such as `menu main`. */
  readonly linkedFrom: readonly string[];
  /** The other families of addresses of a page whose address is a pattern; null where they are not known. */
  readonly others: readonly ListedFamily[] | null;
}

/** Some addresses of a page, cut out by rules. */
export interface ListedFamily {
  readonly example: string;
  /** Where the rules stand that cut them out: such as `/crew and all beneath it`. */
  readonly within: readonly string[];
  /** Who reaches them. */
  readonly words: string;
  /** Why nobody does; null otherwise. */
  readonly closed: string | null;
}

/**
 * The pages of a site in tree order, with their gates and who reaches each in words.
 *
 * @param at the moment, in milliseconds since 1970
 * @param skip how many pages to leave out at the start
 * @param limit the maximum number of pages
 * @throws QuestionError where the conditions have more cases than can be told apart
 */
export function pageList(
  prepared: PreparedSite,
  at: number,
  skip = 0,
  limit = Infinity,
): ListedPage[] {
  const places = new Map(prepared.site.gates.map((gate) => [gate.name, whereOf(gate)]));
  const links = linksByPage(prepared);
  const explorer = new Explorer(prepared, at);
  const wanted = inTreeOrder(prepared.site.pages).slice(skip, skip + limit);
  return wanted.map(({ page, parent }) => {
    const families = explorer.knownFamiliesOf(page);
    const [first = familyOf(page.example), ...others] = families ?? [];
    const said = (family: Family) => settled(() => reachInWords(reachOf(explorer, page, family)));
    const { condition: _, ...reach } = said(first);
    return {
      address: page.address,
      title: page.title,
      leadsTo: page.leadsTo,
      ...reach,
      parent,
      kind: page.kind,
      state: page.draft ? 'draft' : reach.closed === null ? 'there' : 'closed',
      listed: page.listed,
      line: page.place.line,
      gatesFrom: reach.gates.map((gate) => places.get(gate)!),
      linkedFrom: [...(links.get(page) ?? [])],
      others:
        families &&
        others.map((family) => {
          const { words, closed } = said(family);
          return { example: family.example, within: family.within.map(printScope), words, closed };
        }),
    };
  });
}

/** What leads visitors to each page without their asking for its address. */
function linksByPage(prepared: PreparedSite): Map<Page, Set<string>> {
  const { menus, landings } = prepared.site;
  const found = new Map<Page, Set<string>>();
  const add = (link: string, from: string): void => {
    const page = link.startsWith('/') ? pageAt(prepared, link.replace(/[?#].*$/, '')) : null;
    if (page === null) return;
    const others = found.get(page.rule.page);
    if (others) others.add(from);
    else found.set(page.rule.page, new Set([from]));
  };
  for (const { name, links } of menus) for (const link of links) add(link, `menu ${name}`);
  for (const { after, go } of landings) add(go, `landing after ${after}`);
  return found;
}

const SHOWN = 3;

function whereOf({ scopes }: Gate): string {
  const all = scopes.map(({ pattern, under }) => `${under ? 'under' : 'at'} ${pattern.text}`);
  return all.length > SHOWN
    ? `${all.slice(0, SHOWN).join(', ')} and ${all.length - SHOWN} more`
    : all.join(', ');
}
