import { clausesOf } from '../condition/clauses.ts';
import { printCondition } from '../condition/print.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import type { Closure } from '../model/closure.ts';
import type { Condition } from '../model/condition.ts';
import type { Page, Right } from '../model/site.ts';
import { pageAt, reachOf } from '../reach/who-reaches.ts';
import { describeClosure } from '../wording/closure.ts';
import { describeCondition, productTitles } from '../wording/condition.ts';

/** Who reaches a page, from the rules themselves: every visitor there could be, not a sample. */
export interface WhoReaches {
  readonly address: string;
  readonly title: string;
  /** Exactly whom the page lets in, as a condition; full access is apart. */
  readonly condition: string;
  readonly words: string;
  /** Who gets in by full access alone; null where the site has none. */
  readonly byFullAccess: string | null;
  /** Why nobody does at the moment, whoever they are; null otherwise. */
  readonly closed: string | null;
  /** The same as data. */
  readonly closure: Closure | null;
  /** The gates that have a say, the nearest first. */
  readonly gates: readonly string[];
  /** Where the page redirects to, for one that has no content of its own. */
  readonly leadsTo: string | null;
}

/**
 * Says who reaches a page.
 *
 * @param address an address of the page, or the page's own address where that is a pattern
 * @param at the moment, in milliseconds since 1970
 * @param right whether it is to be viewed or changed
 * @returns null where no page is
 */
export function whoReaches(
  prepared: PreparedSite,
  address: string,
  at: number,
  right: Right = 'view',
): WhoReaches | null {
  const found = pageAt(prepared, address);
  return found && whoReachesPage(prepared, found.rule.page, at, right);
}

/** Says who reaches a page of the site; `at` is in milliseconds since 1970. */
export function whoReachesPage(
  prepared: PreparedSite,
  page: Page,
  at: number,
  right: Right = 'view',
): WhoReaches {
  const { site, names } = prepared;
  const { condition, closed, gates, byFullAccess } = reachOf(prepared, page, at, right);
  const titles = productTitles(site.products);
  const inWords = (one: Condition): string =>
    describeCondition({ condition: one, clauses: clausesOf(one, names) }, titles);
  return {
    address: page.address,
    title: page.title,
    condition: printCondition(condition),
    words: inWords(condition),
    byFullAccess: byFullAccess && inWords(byFullAccess),
    closed: closed && describeClosure(closed, site.timeZone),
    closure: closed,
    gates,
    leadsTo: page.leadsTo,
  };
}
