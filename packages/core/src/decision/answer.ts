import type { DecisionContext, Ending } from './decision.ts';
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
