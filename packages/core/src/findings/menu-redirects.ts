import { decide } from '../decision/decide.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { candidates } from './redirect-samples.ts';

/** A menu links to an address that is redirected: each click costs a second request. */
export function menuRedirects({ prepared, at }: InspectionContext): FindingDraft[] {
  const visitors = candidates(prepared.site);
  return prepared.site.menus.flatMap(({ name, links, place }) =>
    links.flatMap((link): FindingDraft[] => {
      const request = { method: 'GET', address: link };
      const redirected = visitors
        .map((visitor) => decide(prepared, request, visitor, at))
        .find(({ reasons }) =>
          reasons.some(({ stage, verdict }) => stage === 'redirect' && verdict === 'redirected'),
        );
      if (!redirected) return [];
      return [
        {
          code: 'menu-redirects',
          severity: 'low',
          subject: { kind: 'menu', name: name },
          place,
          values: { menu: name, link, location: redirected.location },
        },
      ];
    }),
  );
}
