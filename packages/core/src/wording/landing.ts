import type { LandingReason } from '../model/landing-reason.ts';

/** Why someone lands where they do, in English. */
export function describeLanding(reason: LandingReason): string {
  const { address } = reason;
  if (reason.code === 'return-address') return `They go back to ${address}, the return address.`;
  const { after, notBack } = reason;
  const rule =
    reason.code === 'landing-rule'
      ? `the landing after ${after} leads there`
      : `no landing after ${after} is for them`;
  switch (notBack?.because) {
    case undefined:
      return `They land at ${address}: ${rule}.`;
    case 'not-of-this-site':
      return `They land at ${address}: ${notBack.from} is no address of this site, and ${rule}.`;
    case 'not-reached':
      return `They land at ${address}: a visit to ${notBack.from} would end as ${notBack.outcome}, and ${rule}.`;
  }
}
