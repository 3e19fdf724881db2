import type { Address } from '../address/address.ts';
import type { Otherwise } from '../model/site.ts';
import type { Match } from '../pattern/pattern-index.ts';
import type { DecisionContext } from './decision.ts';
import { gateChainAt, isHiding, judge } from './gates.ts';
import type { PreparedPage } from './prepared-site.ts';
import { siteAddress, type SiteAddress } from './site-address.ts';
import { isInForce } from '../time/period.ts';

/**
 * Returns the page at an address, or null where no page is or a gate hides it from the visitor. Stages before the
 * gate look pages up here alone, so that a hidden page changes none of their answers.
 */
export function visiblePage(
  context: DecisionContext,
  address: SiteAddress,
): Match<PreparedPage> | null {
  const { page } = address;
  return page !== null && isHidden(context, address) ? null : page;
}

/**
 * Returns the primary address of an alias; undefined where the path is no alias, and where its page is hidden from
 * the visitor.
 */
export const visiblePrimary = (
  context: DecisionContext,
  address: Pick<Address, 'path' | 'query'>,
): string | undefined =>
  isHiddenAlias(context, address) ? undefined : context.prepared.primary.get(address.path);

/** Whether an address is an alias of a page that a gate hides from the visitor, or is itself hidden. */
export function isHiddenAlias(
  context: DecisionContext,
  { path, query }: Pick<Address, 'path' | 'query'>,
): boolean {
  const { prepared } = context;
  const primary = prepared.hides ? prepared.primary.get(path) : undefined;
  if (primary === undefined) return false;
  return [primary, path].some((one) => {
    const read = siteAddress(prepared, query === '' ? one : `${one}?${query}`);
    return read.ok && isHidden(context, read.address);
  });
}

/**
 * Whether a gate hides an address from the visitor. Where it does, the decision stays independent of the visitor: it is
 * the one that the site would make without the page.
 */
export function isHidden(context: DecisionContext, address: SiteAddress): boolean {
  if (!hidesFromSome(context, address)) return false;
  if (isHiding(judge({ ...context, address, reasons: [] }, address).refusal)) return true;
  context.readsVisitor = true;
  return false;
}

/** Whether the gates at an address hide it from some visitors, whether a page is there or not. */
export function hidesFromSome(
  context: Pick<DecisionContext, 'at' | 'prepared'>,
  address: SiteAddress,
): boolean {
  if (!context.prepared.hides) return false;
  return (['view', 'change'] as const).some((right) => {
    const gates = address.gates(right);
    return (
      gates.some(({ rule }) => rule.otherwise.some(hides) && isInForce(rule, context.at)) &&
      gateChainAt(context, gates).effectiveGates.some(({ rule }) => rule.admit.is !== 'anyone')
    );
  });
}

const hides = (step: Otherwise): boolean => step.do === 'hide';
