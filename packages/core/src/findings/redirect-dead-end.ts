import { pageAt } from '../decision/page-at.ts';
import { literalOf } from '../model/pattern.ts';
import type { Redirect } from '../model/site.ts';
import { PathLanguage } from '../pattern/language.ts';
import { targetScope } from '../pattern/target.ts';
import { rulesNear } from '../explore/rules-near.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { findWay, partsThat, redirectSamples } from './redirect-samples.ts';

/** Some two seconds; more than any site has whose pages and redirects are not all patterns. */
const MOST_COMPARED = 50_000;

/** The target of a redirect is no page. */
export function redirectDeadEnd(inspected: InspectionContext): FindingDraft[] {
  const { prepared, explorer } = inspected;
  const budget = { left: MOST_COMPARED };
  // A page that is hidden, or closed at the moment, is there.
  const ending = partsThat(
    ({ end }) => end.outcome === 'missing' && pageAt(prepared, end.final) === null,
  );
  return redirectSamples(inspected).flatMap(({ redirect, sent }): FindingDraft[] => {
    const way = findWay(explorer, sent, ending);
    if (way === null || leadsSomewhere(inspected, redirect, budget)) return [];
    return [
      {
        code: 'redirect-dead-end',
        severity: 'medium',
        subject: { kind: 'redirect', name: redirect.source },
        place: redirect.place,
        values: { source: redirect.source, location: way.part.end.final },
      },
    ];
  });
}

/** Whether some target of a redirect that fills it in is more than nothing: one example tells little. */
function leadsSomewhere(
  { prepared }: InspectionContext,
  { pattern, to }: Redirect,
  budget: { left: number },
): boolean {
  if (literalOf(pattern) !== null || literalOf(to.path) !== null) return false;
  const targets = targetScope(to.path, pattern);
  const near = rulesNear(prepared, targets.pattern, ['redirects', 'rewrites', 'pages']);
  if (near.length === 0) return false;
  const paths = PathLanguage.of(targets);
  return near.some(({ scope }) => {
    if (budget.left-- === 0) throw new TooManyCases();
    return paths.meets(PathLanguage.of(scope));
  });
}
