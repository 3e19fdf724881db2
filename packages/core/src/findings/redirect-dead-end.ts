import { pageAt } from '../decision/page-at.ts';
import { literalOf } from '../model/pattern.ts';
import type { Redirect } from '../model/site.ts';
import { PathLanguage } from '../pattern/language.ts';
import { targetScope } from '../pattern/target.ts';
import { rulesNear } from '../explore/rules-near.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { findWay, partsThat, redirectSamples } from './redirect-samples.ts';

/** The target of a redirect is no page. */
export function redirectDeadEnd(inspected: InspectionContext): FindingDraft[] {
  const { prepared, explorer } = inspected;
  // A page that is hidden, or closed at the moment, is there.
  const ending = partsThat(
    ({ end }) => end.outcome === 'missing' && pageAt(prepared, end.final) === null,
  );
  return redirectSamples(inspected).flatMap(({ redirect, sent }): FindingDraft[] => {
    const way = findWay(explorer, sent, ending);
    if (way === null || leadsSomewhere(inspected, redirect)) return [];
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

/** Whether some target of a redirect that fills it in is more than nothing: an example says little about the others. */
function leadsSomewhere({ prepared }: InspectionContext, { pattern, to }: Redirect): boolean {
  if (literalOf(pattern) !== null || literalOf(to.path) !== null) return false;
  const targets = targetScope(to.path, pattern);
  const paths = PathLanguage.tryOf(targets);
  if (paths === null) return true;
  return rulesNear(prepared, targets.pattern, ['redirects', 'rewrites', 'pages']).some(
    ({ scope }) => {
      const others = PathLanguage.tryOf(scope);
      return others === null || !paths.and(others).isEmpty;
    },
  );
}
