import type { Condition } from '../model/condition.ts';
import { decodeGroups, type Groups } from '../pattern/fill.ts';
import type { NamedRule, Told } from '../model/reason.ts';
import { literalOf } from '../model/pattern.ts';
import type { Page, Period, Rewrite } from '../model/site.ts';
import type { Match } from '../pattern/pattern-index.ts';
import { patternShapeKey } from '../pattern/shape.ts';
import { outsidePeriod } from './outside-period.ts';
import { whoIs, holds, type DecisionContext } from './decision.ts';
import { findPage } from './page.ts';

/** A rule that may be for a while, for some, or only where no page is. */
interface Conditional extends Period {
  readonly when: Condition | null;
  readonly unlessPage: boolean;
}

/** Why a rule does not apply. */
export type SkipReason = Told<'not-yet' | 'no-longer' | 'for-others' | 'page-is-there'>;

/** Why a rule at this address does not apply; null when it does. */
export function skipReason(
  context: DecisionContext,
  rule: NamedRule,
  { validFrom, validUntil, when, unlessPage }: Conditional,
  groups: Groups,
): SkipReason | null {
  const outside = outsidePeriod(rule, { validFrom, validUntil }, context.at);
  if (outside !== null) return outside;
  if (when !== null && !holds(context, when, decodeGroups(groups)))
    return { code: 'for-others', values: { ...rule, ...whoIs(context.visitor), when } };
  return unlessPage && findPage(context)?.exists ? { code: 'page-is-there', values: rule } : null;
}

/** Returns why a rewrite at this address does not apply; null when it does. */
export function rewriteSkipReason(
  context: DecisionContext,
  { rule, groups }: Match<Rewrite>,
): SkipReason | null {
  const unlessPage = leavesAlone(rule, findPage(context)?.page);
  return skipReason(context, namedRewrite(rule), { ...rule, unlessPage }, groups);
}

/** Names a rewrite in reasons. */
export const namedRewrite = ({ source }: Rewrite): NamedRule => ({ kind: 'rewrite', name: source });

/**
 * Whether a rewrite is to leave a page alone where it is there. One that has the very addresses of the
 * rewrite is what the rewrite shows, and not in its way: it stands for the readable addresses in the grid.
 */
function leavesAlone({ unlessPage, pattern }: Rewrite, page: Page | undefined): boolean {
  if (!unlessPage || page === undefined) return false;
  return literalOf(pattern) !== null || patternShapeKey(page.pattern) !== patternShapeKey(pattern);
}
