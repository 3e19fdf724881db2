import { addressOf, type Start } from '../everywhere/starts.ts';
import { familyOf } from '../explore/families.ts';
import { NONE } from '../explore/visitor-sets.ts';
import type { ReadableCondition } from '../model/clause.ts';
import type { Rewrite } from '../model/site.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import { exampleOf } from '../pattern/example.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A gate refuses visitors at the readable address, who reach the same content at the address that it is served from. */
export function rewriteRoundGate(inspected: InspectionContext): FindingDraft[] {
  return inspected.prepared.site.rewrites.flatMap((rewrite): FindingDraft[] => {
    if (rewrite.serve.origin !== null) return [];
    const found = new Map<string, { who: ReadableCondition; served: string }>();
    for (const start of startsOf(inspected, rewrite)) {
      const explorer = inspected.explorer.within(start.family);
      const { sets } = explorer.atoms;
      const refused = new Map<string, number>();
      for (const { visitors, end } of explorer.partsOf(addressOf(start))) {
        const { reasons } = end.hops[0]!.decision;
        const rewritten = reasons.find(
          (reason) => reason.code === 'rewritten' && reason.place === rewrite.place,
        );
        const refusal = reasons.find(({ code }) => code === 'not-admitted');
        if (rewritten?.code !== 'rewritten' || refusal?.code !== 'not-admitted') continue;
        const key = JSON.stringify([refusal.values.gate, rewritten.values.location]);
        refused.set(key, sets.or(refused.get(key) ?? NONE, visitors));
      }
      for (const [key, visitors] of refused) {
        const [gate, served] = JSON.parse(key) as [string, string];
        const reached = explorer.visitorsOf(
          explorer.partsOf(served),
          ({ end }) => end.outcome === 'reach' && !end.fullAccess,
        );
        const who = explorer.describe(sets.and(visitors, reached));
        if (who !== null && !found.has(gate)) found.set(gate, { who, served });
      }
    }
    return [...found].map(([gate, values]) => ({
      code: 'rewrite-round-gate',
      severity: 'high',
      subject: { kind: 'rewrite', name: rewrite.source },
      place: rewrite.place,
      values: { source: rewrite.source, gate, serve: rewrite.serve.text, ...values },
    }));
  });
}

function startsOf({ starts, reportLimit }: InspectionContext, rewrite: Rewrite): Start[] {
  try {
    return starts.ofRewrite(rewrite);
  } catch (error) {
    if (!(error instanceof TooManyCases)) throw error;
    reportLimit();
    return [{ family: familyOf(exampleOf(rewrite.pattern, null)), origin: '', query: '' }];
  }
}
