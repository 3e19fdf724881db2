import { leadsToItself } from '../redirects/leads-to-itself.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { findWay, partsThat, redirectSamples, sentTo } from './redirect-samples.ts';

/** A redirect leads back to where it came from, at once or after others: browsers give up. */
export function redirectLoop(inspected: InspectionContext): FindingDraft[] {
  const { explorer, prepared } = inspected;
  const looping = partsThat(({ end }) => end.outcome === 'loop');
  return redirectSamples(inspected).flatMap(
    ({ redirect, position, address, sent }): FindingDraft[] => {
      const way = findWay(explorer, sent, looping);
      if (way === null) return [];
      const who = explorer.describe(sentTo(explorer, sent, looping));
      const { hops, final } = way.part.end;
      const trail = [address, ...hops.map((hop) => hop.address), final];
      // Where it comes back to the address asked for, the circle is closed there.
      const back = trail.indexOf(address, 1);
      const isItself = leadsToItself(redirect, prepared.site);
      return [
        {
          code: 'redirect-loop',
          severity: 'high',
          subject: { kind: 'redirect', name: redirect.source },
          place: redirect.place,
          values: {
            source: redirect.source,
            target: redirect.to.text,
            isItself,
            address,
            met: back === -1 ? trail : trail.slice(0, back + 1),
            who: who!,
          },
          fix:
            isItself && position !== null
              ? [{ op: 'remove', path: pointer('redirects', position) }]
              : null,
        },
      ];
    },
  );
}
