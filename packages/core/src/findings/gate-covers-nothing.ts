import { normalizePath } from '../address/tidy.ts';
import { rulesAt } from '../pattern/pattern-index.ts';
import { pathOf } from '../decision/page-at.ts';
import { exampleOf } from '../pattern/example.ts';
import { rulesNear } from '../explore/rules-near.ts';
import { literalOf } from '../model/pattern.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import type { Scope } from '../model/site.ts';
import { PathLanguage } from '../pattern/language.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** Some two seconds; more than any site has whose pages and gates are not all patterns. */
const MOST_COMPARED = 50_000;

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
        rulesAt(prepared.gates[right], path).map(({ name }) => name),
      ),
    ),
  );
  let left = MOST_COMPARED;
  // Of a page that is a pattern, it may cover other addresses than the example.
  const isAtPattern = (scope: Scope): boolean => {
    const near = rulesNear(prepared, scope.pattern, ['pages', 'rewrites']).filter(
      (one) => literalOf(one.scope.pattern) === null,
    );
    const covered = PathLanguage.of(scope);
    return near.some((one) => {
      if (left-- === 0) throw new TooManyCases();
      return covered.meets(PathLanguage.of(one.scope));
    });
  };
  return gates
    .filter(({ name, scopes }) => !covering.has(name) && !scopes.some(isAtPattern))
    .map(({ name, scopes, place }) => ({
      code: 'gate-covers-nothing' as const,
      severity: 'medium' as const,
      subject: { kind: 'gate', name: name },
      place,
      values: { gate: name, scopes },
    }));
}
