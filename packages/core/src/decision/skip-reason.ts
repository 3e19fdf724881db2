import { printCondition } from '../condition/print.ts';
import type { Condition } from '../model/condition.ts';
import type { Groups } from '../pattern/fill.ts';
import type { Period } from '../model/site.ts';
import { printDay } from '../time/instant.ts';
import { called, holds, type Deciding } from './decision.ts';
import { isHidden } from './hidden.ts';
import { findPage } from './page.ts';

/** A rule that may be for a while, for some, or only where no page is. */
interface Conditional extends Period {
  readonly when: Condition | null;
  readonly unlessPage: boolean;
}

/**
 * Why a rule at this address does not apply, as a sentence; null when it does.
 * @param what what the rule is called, as in “The redirect from /old”
 */
export function objectionTo(
  on: Deciding,
  what: string,
  { from, until, when, unlessPage }: Conditional,
  groups: Groups,
): string | null {
  const { timeZone } = on.prepared.site;
  if (from !== null && on.at < from) return `${what} begins on ${printDay(from, timeZone)}.`;
  if (until !== null && on.at >= until) return `${what} ended on ${printDay(until, timeZone)}.`;
  if (when !== null && !holds(on, when, groups))
    return `${what} is for ${printCondition(when)}, and ${called(on.visitor)} is not among them.`;
  // Whether a page is there may depend on who asks, and must not show in what is kept.
  const isHome = on.address.host === on.prepared.site.host;
  if (unlessPage && isHome && on.prepared.hides) on.readsVisitor = true;
  return unlessPage && findPage(on)?.exists && !isHidden(on, on.address)
    ? `${what} applies only where there is no page, and there is one.`
    : null;
}
