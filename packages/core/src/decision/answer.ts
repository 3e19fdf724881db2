import type { DecisionContext, Ending } from './decision.ts';
import { gatesOfLookAlikes } from './look-alike.ts';
import { hide } from './not-found.ts';
import { isLeftToWebsite } from './page.ts';
import type { Reason } from '../model/reason.ts';

const ANSWERED: Reason = {
  stage: 'answer',
  rule: null,
  verdict: 'answered',
  code: 'shown',
  values: {},
  place: null,
};
const REACHED: Ending = { outcome: 'reach', status: 200 };

/** Answers with the page, and says whether to ask again and whether to list it. */
export function answerStage(context: DecisionContext): Ending | null {
  const refused = refuseLookAlike(context);
  if (refused !== null) return refused;
  if (context.found === null && isLeftToWebsite(context)) return REACHED;
  if (!context.found?.exists) return null;
  context.reasons.push(ANSWERED);
  const { refresh, listed } = context.found.page;
  if (refresh === null && listed) return REACHED;
  const headers = {
    ...(refresh === null ? {} : { Refresh: String(refresh) }),
    ...(listed ? {} : { 'X-Robots-Tag': 'noindex' }),
  };
  return { ...REACHED, headers };
}

/** Refuses an address that the website may take for another one, with other gates or another page. */
function refuseLookAlike(context: DecisionContext): Ending | null {
  const asked = context.served === null ? context.address : context.served.address;
  if (asked === null || (context.found === null && !isLeftToWebsite(context))) return null;
  if (context.found?.exists === false) return null;
  const gates = gatesOfLookAlikes(context.prepared, asked);
  if (gates === null) return null;
  if (gates.some(({ otherwise }) => otherwise.some((step) => step.do === 'hide')))
    return hide(context);
  context.reasons.push({
    stage: 'address',
    rule: null,
    verdict: 'invalid',
    code: 'not-well-formed',
    values: { problem: 'look-alike' },
    place: null,
  });
  return { outcome: 'invalid', status: 400 };
}
