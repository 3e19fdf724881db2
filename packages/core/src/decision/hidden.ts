import { readAddress, type Address } from '../address/address.ts';
import { whoIs, type DecisionContext, type Ending } from './decision.ts';
import { lookUp } from '../pattern/pattern-index.ts';
import { gateChainAt, gateAt } from './gate.ts';
import { answerMissing } from './not-found.ts';

/**
 * Whether a gate hides what is at an address from this visitor. Stages before the gate ask, so that what
 * they do is the same as where nothing is.
 */
export function isHidden(context: DecisionContext, address: Address): boolean {
  if (!mayBeHidden(context, address)) return false;
  const apart: DecisionContext = {
    ...context,
    address,
    reasons: [],
    found: undefined,
    served: null,
  };
  const ending = gateAt(apart, address);
  context.readsVisitor ||= apart.readsVisitor;
  context.readsLanguage ||= apart.readsLanguage;
  return ending?.outcome === 'missing';
}

/** Whether a gate hides an address from anyone: only then does what is found here depend on who asks. */
function mayBeHidden(context: DecisionContext, { path }: Address): boolean {
  const { hides, gates } = context.prepared;
  if (!hides) return false;
  return (['view', 'change'] as const).some((right) =>
    gateChainAt(context, lookUp(gates[right], path)).effectiveGates.some(({ rule }) =>
      rule.otherwise.some((step) => step.do === 'hide'),
    ),
  );
}

/**
 * A redirect that tells that a page is there, unless that page is hidden from this visitor: then the
 * answer of an address where nothing is.
 */
export function unlessHidden(context: DecisionContext, redirect: Ending): Ending {
  const { site, hides } = context.prepared;
  if (!hides) return redirect;
  const read = readAddress(redirect.location!, site, site.tidy);
  if (isHidden(context, context.address) || (read.ok && isHidden(context, read.address))) {
    context.reasons.push({
      stage: 'gate',
      rule: null,
      verdict: 'refused',
      code: 'target-hidden',
      values: whoIs(context.visitor),
      place: null,
    });
    return answerMissing(context);
  }
  return redirect;
}
