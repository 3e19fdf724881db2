import type { Reason, Told } from '../model/reason.ts';

/** A reason about a rule. Written out, because spreading costs as much as a look-up in a decision. */
export const tell = (
  stage: Reason['stage'],
  rule: string | null,
  verdict: Reason['verdict'],
  { code, values }: Told,
  place: Reason['place'],
): Reason => ({ stage, rule, verdict, code, values, place }) as Reason;
