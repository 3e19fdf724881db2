import { printAddress } from '../address/address.ts';
import { servedExample } from '../decision/rewrite.ts';
import { NONE } from '../explore/visitor-sets.ts';
import { exampleOf } from '../pattern/example.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A gate turns people away at the readable address, who are let in where they ask for what it is served from. */
export function rewriteRoundGate({ prepared, explorer }: InspectionContext): FindingDraft[] {
  const { sets } = explorer.atoms;
  return prepared.site.rewrites.flatMap((rewrite): FindingDraft[] => {
    const address = servedExample(prepared, rewrite);
    if (address === null) return [];
    const served = printAddress(address, prepared.site);
    const letIn = explorer.visitorsOf(
      explorer.partsOf(served),
      ({ end }) => end.outcome === 'reach' && !end.fullAccess,
    );
    const turnedAway = new Map<string, number>();
    for (const { visitors, end } of explorer.partsOf(exampleOf(rewrite.pattern, null))) {
      const { reasons } = end.hops[0]!.decision;
      const refused = reasons.find(({ code }) => code === 'not-admitted');
      if (refused?.code !== 'not-admitted') continue;
      const { gate } = refused.values;
      turnedAway.set(gate, sets.or(turnedAway.get(gate) ?? NONE, sets.and(visitors, letIn)));
    }
    return [...turnedAway].flatMap(([gate, visitors]): FindingDraft[] => {
      const who = explorer.describe(visitors);
      if (who === null) return [];
      return [
        {
          code: 'rewrite-round-gate',
          severity: 'high',
          subject: { kind: 'rewrite', name: rewrite.source },
          place: rewrite.place,
          values: { source: rewrite.source, gate, who, serve: rewrite.serve.text, served },
        },
      ];
    });
  });
}
