import { whoIs, type DecisionContext, type Ending } from './decision.ts';
import { gateChainAt, gateAt } from './gate.ts';
import { answerMissing } from './not-found.ts';
import { siteAddress, type SiteAddress } from './site-address.ts';

/**
 * Whether a gate hides what is at an address from this visitor. Stages before the gate ask, so that what
 * they do is the same as where nothing is.
 */
export function isHidden(context: DecisionContext, address: SiteAddress): boolean {
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
function mayBeHidden(context: DecisionContext, address: SiteAddress): boolean {
  if (!context.prepared.hides) return false;
  return (['view', 'change'] as const).some((right) =>
    gateChainAt(context, address.gates(right)).effectiveGates.some(({ rule }) =>
      rule.otherwise.some((step) => step.do === 'hide'),
    ),
  );
}

/**
 * A redirect that tells that a page is there, unless that page is hidden from this visitor: then the
 * answer of an address where nothing is.
 */
export function unlessHidden(context: DecisionContext, redirect: Ending): Ending {
  const { prepared } = context;
  if (!prepared.hides) return redirect;
  const read = siteAddress(prepared, redirect.location!);
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
