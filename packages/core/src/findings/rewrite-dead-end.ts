import { servedExample } from '../decision/rewrite.ts';
import { literalOf } from '../model/pattern.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A rewrite serves an address at which no page is: whoever asks is told that there is nothing. */
export function rewriteDeadEnd({ prepared }: InspectionContext): FindingDraft[] {
  if (prepared.site.undeclared === 'website') return [];
  return prepared.site.rewrites.flatMap((rewrite): FindingDraft[] => {
    const served = servedExample(prepared, rewrite);
    // Where the path is filled in, an example says nothing about the others.
    const isPlain = literalOf(rewrite.serve.path) !== null;
    if (!isPlain || served?.page !== null) return [];
    return [
      {
        code: 'rewrite-dead-end',
        severity: 'medium',
        subject: { kind: 'rewrite', name: rewrite.source },
        place: rewrite.place,
        values: { source: rewrite.source, served: served.path },
      },
    ];
  });
}
