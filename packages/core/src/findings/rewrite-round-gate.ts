import { gateChainAt } from '../decision/gate.ts';
import { servedExample } from '../decision/rewrite.ts';
import { lookUp } from '../pattern/pattern-index.ts';
import { normalizePath } from '../address/tidy.ts';
import { exampleOf } from '../pattern/example.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A gate stands at the readable address and none at the one it is served from, which anyone may ask for. */
export function rewriteRoundGate({ prepared, at }: InspectionContext): FindingDraft[] {
  const { site, gates } = prepared;
  const gatesAt = (path: string): string[] =>
    gateChainAt({ prepared, at }, lookUp(gates.view, path)).effectiveGates.map(
      ({ rule }) => rule.name,
    );
  return site.rewrites.flatMap((rewrite): FindingDraft[] => {
    const served = servedExample(prepared, rewrite);
    // Whoever asks for what a canonical rewrite serves is redirected to the gate.
    if (served === null || (rewrite.canonical !== null && rewrite.when === null)) return [];
    const [gate] = gatesAt(normalizePath(exampleOf(rewrite.pattern, null), site.tidy));
    if (gate === undefined || gatesAt(served).length > 0) return [];
    return [
      {
        code: 'rewrite-round-gate',
        severity: 'high',
        subject: { kind: 'rewrite', name: rewrite.source },
        place: rewrite.place,
        values: { source: rewrite.source, gate, serve: rewrite.serve.text, served },
      },
    ];
  });
}
