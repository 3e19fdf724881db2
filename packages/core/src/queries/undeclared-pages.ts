import { readAddress } from '../address/address.ts';
import { decide } from '../decision/decide.ts';
import type { DecisionOutcome } from '../decision/decision.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { GUEST } from '../model/visitor.ts';
import { rulesAt } from '../pattern/pattern-index.ts';
import { appliedRedirect } from '../redirects/applied.ts';

/** An address at which a website has something, and the site file no page. */
export interface UndeclaredPage {
  readonly address: string;
  /** What a guest meets there by the rules. */
  readonly outcome: DecisionOutcome;
  readonly status: number;
}

/**
 * The addresses of a website that no page of a site stands for, each once. What a redirect leads on from is
 * known to the rules, and is left out; so is what is on another host.
 *
 * @param found paths at which the website has something
 * @param at the moment, in milliseconds since 1970
 */
export function undeclaredPages(
  prepared: PreparedSite,
  found: Iterable<string>,
  at: number,
): UndeclaredPage[] {
  const { site } = prepared;
  const undeclared = new Map<string, UndeclaredPage>();
  for (const address of found) {
    const read = readAddress(address, site, site.tidy);
    if (!read.ok || !prepared.hosts.has(read.address.host)) continue;
    const { path } = read.address;
    if (undeclared.has(path) || rulesAt(prepared.pages, path).length > 0) continue;
    const decision = decide(prepared, { method: 'GET', address: path }, GUEST, at);
    if (decision.location !== null && appliedRedirect(prepared, decision)) continue;
    undeclared.set(path, { address: path, outcome: decision.outcome, status: decision.status });
  }
  return [...undeclared.values()];
}
