import { normalizePath } from '../address/tidy.ts';
import { readsOf } from '../condition/reads.ts';
import { canonicalPath } from '../address/canonical-path.ts';
import { literalOf } from '../model/pattern.ts';
import { lookUp } from '../pattern/pattern-index.ts';
import { isThere } from '../pattern/example.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** The grid has nothing to visit for a page whose address is a pattern: it would be shown as missing. */
export function noExample({ prepared }: InspectionContext): FindingDraft[] {
  const { pages, tidy } = prepared.site;
  return pages
    .filter(({ pattern, missingUnless, example, inGrid }) => {
      if (!inGrid || literalOf(pattern) !== null) return false;
      const path = normalizePath(canonicalPath(example) ?? '/', tidy);
      const [found] = lookUp(prepared.pages, path);
      if (found?.rule.page.pattern !== pattern) return true;
      // Whether it is there for someone is for the grid to show.
      const isForSome = missingUnless !== null && readsOf(missingUnless, prepared.names).visitor;
      return !isForSome && !isThere(missingUnless, found.groups);
    })
    .map(({ address, example, place }) => ({
      code: 'no-example',
      severity: 'low' as const,
      subject: { kind: 'page', name: address },
      place,
      values: { page: address, example },
    }));
}
