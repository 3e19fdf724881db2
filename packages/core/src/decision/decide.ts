import type { Address } from '../address/address.ts';
import { encodeLocation } from '../address/location.ts';
import type { PreparedSite } from './prepared-site.ts';
import type { Visitor } from '../model/visitor.ts';
import type { Answers } from './decision.ts';
import { addressStage } from './address.ts';
import { answerStage } from './answer.ts';
import type { DecisionContext, Decision, Ending, Request } from './decision.ts';
import { gateStage } from './gate.ts';
import { headersOf, isKept } from './headers.ts';
import { hostStage } from './host.ts';
import { httpsStage } from './https.ts';
import { leadStage } from './lead.ts';
import { notFoundStage } from './not-found.ts';
import { pageStage } from './page.ts';
import { redirectStage } from './redirect.ts';
import { rewriteStage } from './rewrite.ts';
import { SiteAddress, siteAddress } from './site-address.ts';
import { tidyStage } from './tidy.ts';

/**
 * Decides one request: its stages in their order, each of which passes or ends the decision. Pure: no input
 * or output, no clock; the time grows with the length of the address and not with the number of rules.
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
  return conclude(
    context,
    addressStage(context) ??
      hostStage(context) ??
      httpsStage(context) ??
      redirectStage(context) ??
      tidyStage(context) ??
      rewriteStage(context) ??
      gateStage(context) ??
      pageStage(context) ??
      leadStage(context) ??
      answerStage(context) ??
      notFoundStage(context),
  );
}

/** What stands for an address that can't be read. */
const UNREAD: Address = {
  protocol: 'https:',
  host: '',
  requestedPath: '/',
  path: '/',
  isRespelled: false,
  query: '',
};

/**
 * A decision of which nothing is known but the address.
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
  const read = siteAddress(prepared, request.address);
  return {
    prepared,
    request,
    visitor,
    at,
    reasons: [],
    address: read.ok ? read.address : new SiteAddress(prepared, UNREAD),
    problem: read.ok ? null : read.problem,
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
