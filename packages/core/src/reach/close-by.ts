import { readAddress } from '../address/address.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { decodePathText } from '../pattern/canonical.ts';
import { lookUp } from '../pattern/index-of-patterns.ts';
import { literalOf } from '../pattern/pattern.ts';
import { editDistance } from '../text/nearest.ts';
import type { Visitor } from '../site/visitor.ts';
import { courseOf } from '../visit/visit.ts';

/** A page that may have been meant. */
export interface CloseBy {
  readonly address: string;
  readonly title: string;
}

const MOST = 5;
/** How unlike an address may be, from 0 (the same) to 1 (nothing in common). */
const FARTHEST = 0.4;
/** The same last step in another section counts as this unlike. */
const ELSEWHERE = 0.2;

/**
 * The pages closest to an address at which nothing is: by spelling, or by the last step in another
 * section. Only those that this visitor reaches are told, and none that is kept from search engines:
 * a suggestion must not give away what a gate hides.
 */
export function closeBy(
  prepared: PreparedSite,
  address: string,
  visitor: Visitor,
  at: number,
): CloseBy[] {
  const read = readAddress(address, prepared.site, prepared.site.tidy);
  if (!read.ok) return [];
  const asked = decodePathText(read.address.path).toLowerCase();
  return prepared.site.pages
    .filter(({ pattern, listed }) => listed && literalOf(pattern) !== null)
    .map((page) => ({ page, unlike: unlikeness(asked, page.example.toLowerCase()) }))
    .filter(({ unlike }) => unlike <= FARTHEST)
    .sort((a, b) => a.unlike - b.unlike || (a.page.address < b.page.address ? -1 : 1))
    .filter(({ page }) => {
      const course = courseOf(prepared, { method: 'GET', address: page.example }, visitor, at);
      return course.outcome === 'reach';
    })
    .slice(0, MOST)
    .map(({ page }) => ({ address: page.address, title: page.title }));
}

/** The title of the page that has an address for itself, whether it is open now or not; null where none has. */
export function pageTitleAt(prepared: PreparedSite, address: string): string | null {
  const read = readAddress(address, prepared.site, prepared.site.tidy);
  const page = read.ok ? lookUp(prepared.pages, read.address.path)[0]?.rule.page : undefined;
  return page && literalOf(page.pattern) !== null ? page.title : null;
}

function unlikeness(asked: string, address: string): number {
  const whole = share(asked, address);
  const last = share(lastStep(asked), lastStep(address));
  return Math.min(whole, ELSEWHERE + last);
}

const lastStep = (path: string): string => path.slice(path.lastIndexOf('/') + 1);

function share(a: string, b: string): number {
  const longest = Math.max(a.length, b.length);
  if (longest === 0) return 1;
  // Lengths alone rule most out, and cost nothing to compare.
  if (Math.abs(a.length - b.length) / longest > FARTHEST) return 1;
  return editDistance(a, b) / longest;
}
