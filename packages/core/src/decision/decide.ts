import { encodeLocation } from '../address/location.ts';
import type { PreparedSite } from './prepared-site.ts';
import type { Visitor } from '../model/visitor.ts';
import type { Answers } from './decision.ts';
import { addressStage, UNREAD } from './address.ts';
import { answerStage } from './answer.ts';
import type { DecisionContext, Decision, Ending, Request, Stage } from './decision.ts';
import type { StageName } from '../model/reason.ts';
import { gateStage } from './gate.ts';
import { headersOf, isKept } from './headers.ts';
import { hostStage } from './host.ts';
import { httpsStage } from './https.ts';
import { leadStage } from './lead.ts';
import { notFoundStage } from './not-found.ts';
import { pageStage } from './page.ts';
import { redirectStage } from './redirect.ts';
import { rewriteStage } from './rewrite.ts';
import { tidyStage } from './tidy.ts';

/** The stages of a decision in their order. The last one always ends. */
export const STAGES: readonly (readonly [StageName, Stage])[] = [
  ['address', addressStage],
  ['host', hostStage],
  ['https', httpsStage],
  ['redirect', redirectStage],
  ['tidy', tidyStage],
  ['rewrite', rewriteStage],
  ['gate', gateStage],
  ['page', pageStage],
  ['lead', leadStage],
  ['answer', answerStage],
  ['not-found', notFoundStage],
];

const IN_ORDER = STAGES.map(([, stage]) => stage);

/**
 * Decides one request. Pure: no input or output, no clock; the time grows with the length of the
 * address and not with the number of rules.
 *
 * @param prepared the site
 * @param request method and address
 * @param visitor who is asking
 * @param at the moment of the request, in milliseconds since 1970
 * @returns how it ends, with the reasons as data
 */
export function decide(
  prepared: PreparedSite,
  request: Request,
  visitor: Visitor,
  at: number,
  answers: Answers | null = null,
): Decision {
  const context = decisionContext(prepared, request, visitor, at, answers);
  for (const stage of IN_ORDER) {
    const ending = stage(context);
    if (ending !== null) return conclude(context, ending);
  }
  throw new Error('The last stage did not end the decision.');
}

/**
 * A decision of which nothing is known yet.
 *
 * @param at the moment, in milliseconds since 1970
 */
export function decisionContext(
  prepared: PreparedSite,
  request: Request,
  visitor: Visitor,
  at: number,
  answers: Answers | null = null,
): DecisionContext {
  return {
    prepared,
    request,
    visitor,
    at,
    reasons: [],
    address: UNREAD,
    found: undefined,
    served: null,
    readsVisitor: false,
    readsLanguage: false,
    fullAccess: false,
    answers,
  };
}

/** A redirect that not everyone gets must not be kept for everyone. */
const temporaryStatus = (status: number): number =>
  status === 301 ? 302 : status === 308 ? 307 : status;

function conclude(context: DecisionContext, ending: Ending): Decision {
  return {
    outcome: ending.outcome,
    status:
      ending.permanent === true && !isKept(context)
        ? temporaryStatus(ending.status)
        : ending.status,
    location: ending.location === undefined ? null : encodeLocation(ending.location),
    page: context.found?.exists ? context.found.page.address : null,
    content: ending.content ?? null,
    served: ending.outcome === 'reach' ? (context.served?.location ?? null) : null,
    headers: headersOf(context, ending),
    fullAccess: context.fullAccess,
    reasons: context.reasons,
  };
}
