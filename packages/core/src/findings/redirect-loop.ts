import { leadsToItself } from '../redirects/leads-to-itself.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { findWay, partsThat, redirectSamples, sentTo } from './redirect-samples.ts';

/** A redirect leads back to its own address, at once or after other redirects. Browsers give up. */
export function redirectLoop(inspected: InspectionContext): FindingDraft[] {
  const { prepared } = inspected;
  const looping = partsThat(({ end }) => end.outcome === 'loop');
  return redirectSamples(inspected).flatMap((sample): FindingDraft[] => {
    const { redirect, position } = sample;
    const found = findWay(sample, looping);
    if (found === null) return [];
    const { way, part } = found;
    const { hops, final } = part.end;
    const trail = [way.address, ...hops.map((hop) => hop.address), final];
    // The loop is closed where it returns to the first address.
    const back = trail.indexOf(way.address, 1);
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
          address: way.address,
          met: back === -1 ? trail : trail.slice(0, back + 1),
          who: way.explorer.describe(sentTo(way, looping))!,
        },
        fix:
          isItself && position !== null
            ? [{ op: 'remove', path: pointer('redirects', position) }]
            : null,
      },
    ];
  });
}
