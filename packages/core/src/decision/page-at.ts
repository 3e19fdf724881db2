import { readAddress } from '../address/address.ts';
import type { Closure } from '../model/closure.ts';
import type { Page } from '../model/site.ts';
import { lookUp, type Match } from '../pattern/pattern-index.ts';
import { phaseAt } from '../time/period.ts';
import type { PreparedPage, PreparedSite } from './prepared-site.ts';

/** The page at an address of the site, or of that address where it is a pattern; null where none is. */
export function pageAt(prepared: PreparedSite, address: string): Match<PreparedPage> | null {
  // Only the address of a pattern has to be looked for among all pages.
  const page = /[:*(){}+?\\]/.test(address)
    ? prepared.site.pages.find((one) => one.address === address)
    : undefined;
  const read = readAddress(page?.example ?? address, prepared.site, prepared.site.tidy);
  if (!read.ok || read.address.host !== prepared.site.host) return null;
  return lookUp(prepared.pages, read.address.path)[0] ?? null;
}

/** The path at which rules are matched against a page. */
export function pathOf(prepared: PreparedSite, page: Page): string {
  const read = readAddress(page.example, prepared.site, prepared.site.tidy);
  return read.ok ? read.address.path : page.example;
}

/**
 * Why a page is not there at the moment, whoever asks; null when it is.
 *
 * @param at the moment, in milliseconds since 1970
 */
export function closureAt({ validFrom, validUntil }: Page, at: number): Closure | null {
  const phase = phaseAt(validFrom, validUntil, at);
  if (phase === 'before') return { code: 'opens-later', at: validFrom! };
  return phase === 'after' ? { code: 'ended', at: validUntil! } : null;
}
