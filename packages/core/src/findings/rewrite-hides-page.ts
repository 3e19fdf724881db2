import { rulesAt } from '../pattern/pattern-index.ts';
import { literalOf } from '../model/pattern.ts';
import { pathOf } from '../decision/page-at.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { Rewrite } from '../model/site.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A page has an address that a rewrite of many serves from elsewhere: what is at the page is never shown. */
export function rewriteHidesPage({ prepared }: InspectionContext): FindingDraft[] {
  const { pages, rewrites } = prepared.site;
  const hidden = new Map<Rewrite, string[]>();
  for (const page of pages) {
    if (literalOf(page.pattern) === null) continue;
    const [first] = rulesAt(prepared.rewrites, pathOf(prepared, page));
    // A rewrite of just this address is meant.
    if (!first || first.unlessPage || literalOf(first.pattern) !== null) continue;
    hidden.set(first, [...(hidden.get(first) ?? []), page.address]);
  }
  return [...hidden].map(([rewrite, addresses]) => ({
    code: 'rewrite-hides-page',
    severity: 'high',
    subject: { kind: 'rewrite', name: rewrite.source },
    place: rewrite.place,
    values: { source: rewrite.source, pages: addresses, serve: rewrite.serve.text },
    fix: [
      {
        op: 'add' as const,
        path: pointer('rewrites', rewrites.indexOf(rewrite), 'unless-page'),
        value: 'yes',
      },
    ],
  }));
}
