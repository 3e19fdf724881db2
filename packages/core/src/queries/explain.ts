import { ordinaryVisits, type OrdinaryVisit } from './ordinary-visits.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import type { Decision } from '../decision/decision.ts';
import type { Landed } from '../landing/landing.ts';
import type { Reason } from '../model/reason.ts';
import type { Hop, Visit } from '../visit/visit.ts';
import type { Proposal, RejectedRow } from '../import/proposal.ts';
import type { SiteError } from '../model/site-error.ts';
import type { Advice } from '../wording/advice.ts';
import { describeRowProblem } from '../wording/row-problem.ts';
import { describeSiteProblem } from '../wording/site-problem.ts';
import { describeLanding } from '../wording/landing.ts';
import { describeReason } from '../wording/reason.ts';
import { printedValues } from '../wording/printed-values.ts';

/** A reason with its sentence; conditions and sections among its values are printed as a site file has them. */
export interface ExplainedReason extends Omit<Reason, 'values'> {
  readonly text: string;
  readonly values: Readonly<Record<string, unknown>>;
}

export interface ExplainedDecision extends Omit<Decision, 'reasons'> {
  readonly reasons: readonly ExplainedReason[];
}

export interface ExplainedHop extends Omit<Hop, 'decision'> {
  readonly decision: ExplainedDecision;
}

/** A visit with the sentences of its reasons. */
export interface ExplainedVisit extends Omit<Visit, 'hops'> {
  readonly hops: readonly ExplainedHop[];
  /** What others meet, where only full access let the visitor in. */
  readonly ordinary: readonly OrdinaryVisit[];
}

/** Where someone lands, with the sentence that says why. */
export interface ExplainedLanding extends Omit<Landed, 'reason' | 'visit'> {
  readonly code: Landed['reason']['code'];
  readonly reason: string;
  readonly visit: ExplainedVisit;
}

/** Adds the sentences to a visit, for whoever reads it. */
export function explainVisit(prepared: PreparedSite, visit: Visit): ExplainedVisit {
  const { site } = prepared;
  return {
    ...visit,
    ordinary: ordinaryVisits(prepared, visit),
    hops: visit.hops.map(({ address, decision }) => ({
      address,
      decision: {
        ...decision,
        reasons: decision.reasons.map((reason) => explainReason(reason, site.timeZone)),
      },
    })),
  };
}

/** Adds the sentences to a landing. */
export const explainLanding = (
  prepared: PreparedSite,
  { reason, visit, ...landed }: Landed,
): ExplainedLanding => ({
  ...landed,
  code: reason.code,
  reason: describeLanding(reason),
  visit: explainVisit(prepared, visit),
});

/** Adds the sentence to a reason. */
function explainReason(reason: Reason, timeZone: string): ExplainedReason {
  const { stage, rule, verdict, code, place } = reason;
  return {
    stage,
    rule,
    verdict,
    code,
    text: describeReason(reason, timeZone),
    values: printedValues(reason.values),
    place,
  };
}

/** An error of a site file with its sentences. */
export interface ExplainedError extends SiteError, Advice {}

/** Adds the sentences to errors of a site file. */
export const explainErrors = (errors: readonly SiteError[]): ExplainedError[] =>
  errors.map((error) => ({ ...error, ...describeSiteProblem(error.problem) }));

/** Something that can't be taken over, with the sentence that says why. */
export interface ExplainedRow extends RejectedRow {
  readonly why: string;
}

/** A proposal with the sentences of what it refuses. */
export type ExplainedProposal<P extends Proposal> = Omit<P, 'refused'> & {
  readonly refused: readonly ExplainedRow[];
};

/** Adds the sentences to what a proposal refuses. */
export const explainProposal = <P extends Proposal>(proposal: P): ExplainedProposal<P> => ({
  ...proposal,
  refused: proposal.refused.map((row) => ({ ...row, why: describeRowProblem(row.problem) })),
});
