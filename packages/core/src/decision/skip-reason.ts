import { printCondition } from '../condition/print.ts';
import type { Condition } from '../model/condition.ts';
import type { Groups } from '../pattern/fill.ts';
import type { Period } from '../model/site.ts';
import { printDay } from '../time/instant.ts';
import { called, holds, type DecisionContext } from './decision.ts';
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
export function skipReason(
  context: DecisionContext,
  what: string,
  { validFrom: from, validUntil: until, when, unlessPage }: Conditional,
  groups: Groups,
): string | null {
  const { timeZone } = context.prepared.site;
  if (from !== null && context.at < from) return `${what} begins on ${printDay(from, timeZone)}.`;
  if (until !== null && context.at >= until)
    return `${what} ended on ${printDay(until, timeZone)}.`;
  if (when !== null && !holds(context, when, groups))
    return `${what} is for ${printCondition(when)}, and ${called(context.visitor)} is not among them.`;
  // Whether a page is there may depend on who asks, and must not show in what is kept.
  const isHome = context.address.host === context.prepared.site.host;
  if (unlessPage && isHome && context.prepared.hides) context.readsVisitor = true;
  return unlessPage && findPage(context)?.exists && !isHidden(context, context.address)
    ? `${what} applies only where there is no page, and there is one.`
    : null;
}
