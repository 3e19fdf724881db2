import { MAX_ADDRESS_LENGTH } from '../address/address.ts';
import type { DecisionContext, Ending } from './decision.ts';
import type { Reason } from '../model/reason.ts';

const READ: Reason = {
  stage: 'address',
  rule: null,
  verdict: 'passed',
  code: 'well-formed',
  values: {},
  place: null,
};

/** Says whether the address could be read by the WHATWG URL Standard; ends as `invalid` when it is ambiguous. */
export function addressStage(context: DecisionContext): Ending | null {
  const { problem } = context;
  if (problem === null) {
    context.reasons.push(READ);
    return null;
  }
  context.reasons.push({
    stage: 'address',
    rule: null,
    verdict: 'invalid',
    code: 'not-well-formed',
    values: { problem },
    place: null,
  });
  // 414 and 400 are both "invalid": RFC 9110 has a status of its own for an address that is too long.
  return {
    outcome: 'invalid',
    status: context.request.address.length > MAX_ADDRESS_LENGTH ? 414 : 400,
  };
}
