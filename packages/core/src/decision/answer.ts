import type { Deciding, Ending } from './decision.ts';
import { isLeftToWebsite } from './page.ts';
import type { Reason } from './reason.ts';

const ANSWERED: Reason = {
  stage: 'answer',
  rule: null,
  verdict: 'answered',
  text: 'The page is shown.',
  place: null,
};
const REACHED: Ending = { outcome: 'reach', status: 200 };

/** Answers with the page, and says whether to ask again and whether to list it. */
export function answerStage(on: Deciding): Ending | null {
  if (on.found === null && isLeftToWebsite(on)) return REACHED;
  if (!on.found?.exists) return null;
  on.reasons.push(ANSWERED);
  const { refresh, listed } = on.found.page;
  if (refresh === null && listed) return REACHED;
  const headers = {
    ...(refresh === null ? {} : { Refresh: String(refresh) }),
    ...(listed ? {} : { 'X-Robots-Tag': 'noindex' }),
  };
  return { ...REACHED, headers };
}
