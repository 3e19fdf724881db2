import { readAddress, type Address } from '../address/address.ts';
import { called, type Deciding, type Ending } from './decision.ts';
import { lookUp } from '../pattern/pattern-index.ts';
import { chainOf, gateAt } from './gate.ts';
import { answerMissing } from './not-found.ts';

/**
 * Whether a gate hides what is at an address from this visitor. Stages before the gate ask, so that what
 * they do is the same as where nothing is.
 */
export function isHidden(on: Deciding, address: Address): boolean {
  if (!mayBeHidden(on, address)) return false;
  const apart: Deciding = { ...on, address, reasons: [], found: undefined, served: null };
  const ending = gateAt(apart, address);
  on.readsVisitor ||= apart.readsVisitor;
  on.readsLanguage ||= apart.readsLanguage;
  return ending?.outcome === 'missing';
}

/** Whether a gate hides an address from anyone: only then does what is found here depend on who asks. */
function mayBeHidden(on: Deciding, { path }: Address): boolean {
  const { hides, gates } = on.prepared;
  if (!hides) return false;
  return (['view', 'change'] as const).some((right) =>
    chainOf(on, lookUp(gates[right], path)).asked.some(({ rule }) =>
      rule.otherwise.some((step) => step.do === 'hide'),
    ),
  );
}

/**
 * A redirect that tells that a page is there, unless that page is hidden from this visitor: then the
 * answer of an address where nothing is.
 */
export function unlessHidden(on: Deciding, redirect: Ending): Ending {
  const { site, hides } = on.prepared;
  if (!hides) return redirect;
  const read = readAddress(redirect.location!, site, site.tidy);
  if (isHidden(on, on.address) || (read.ok && isHidden(on, read.address))) {
    on.reasons.push({
      stage: 'gate',
      rule: null,
      verdict: 'refused',
      text: `What this address leads to is hidden from ${called(on.visitor)}.`,
      place: null,
    });
    return answerMissing(on);
  }
  return redirect;
}
