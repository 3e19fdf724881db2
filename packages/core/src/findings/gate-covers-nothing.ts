import { normalizePath } from '../address/tidy.ts';
import { lookUp } from '../pattern/pattern-index.ts';
import { pathOf } from '../decision/page-at.ts';
import { exampleOf } from '../pattern/example.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A gate under which the site file has no page: its address may be mistyped. */
export function gateCoversNothing({ prepared }: InspectionContext): FindingDraft[] {
  const { pages, gates, rewrites, tidy, undeclared } = prepared.site;
  // What the website has besides is for gates to cover, too.
  if (undeclared === 'website') return [];
  const paths = [
    ...pages.map((page) => pathOf(prepared, page)),
    ...rewrites.map(({ pattern }) => normalizePath(exampleOf(pattern, null), tidy)),
  ];
  const covering = new Set(
    paths.flatMap((path) =>
      (['view', 'change'] as const).flatMap((right) =>
        lookUp(prepared.gates[right], path).map(({ rule }) => rule.name),
      ),
    ),
  );
  return gates
    .filter(({ name }) => !covering.has(name))
    .map(({ name, scopes, place }) => ({
      code: 'gate-covers-nothing' as const,
      severity: 'medium' as const,
      subject: { kind: 'gate', name: name },
      place,
      values: { gate: name, scopes },
    }));
}
