import type { Deciding, Ending } from './decision.ts';
import type { Reason } from './reason.ts';

const ANSWERED: Reason = {
  stage: 'answer',
  rule: null,
  verdict: 'answered',
  text: 'The page is shown.',
  place: null,
};
const REACHED: Ending = { outcome: 'reach', status: 200 };

/** Answers with the page. */
export function answerStage(on: Deciding): Ending | null {
  if (!on.found?.exists) return null;
  on.reasons.push(ANSWERED);
  return REACHED;
}
