import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A menu links to an address that is redirected: each click costs a second request. */
export function menuRedirects({ prepared, explorer }: InspectionContext): FindingDraft[] {
  return prepared.site.menus.flatMap(({ name, links, place }) =>
    links.flatMap((link): FindingDraft[] => {
      const redirected = explorer
        .partsOf(link)
        .map(({ end }) => end.hops[0]!.decision)
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
