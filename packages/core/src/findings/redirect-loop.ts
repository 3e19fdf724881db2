import type { PreparedSite } from '../decision/prepared-site.ts';
import type { Part } from '../explore/part.ts';
import { appliedRedirect } from '../redirects/applied.ts';
import { leadsToItself } from '../redirects/leads-to-itself.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { redirectSamples, type Sample, type Way } from './redirect-samples.ts';

/**
 * A redirect leads back to its own address, at once or after other redirects, or applies again and again. Browsers give
 * up. A redirect that only leads into a loop of other rules is not at fault.
 */
export function redirectLoop(inspected: InspectionContext): FindingDraft[] {
  const { prepared } = inspected;
  return redirectSamples(inspected).flatMap((sample): FindingDraft[] => {
    const { redirect, position } = sample;
    const [found] = sample.ways.flatMap((way) => loopBy(prepared, sample, way) ?? []);
    if (!found) return [];
    const { way, part, visitors } = found;
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
          who: way.explorer.describe(visitors)!,
        },
        fix:
          isItself && position !== null
            ? [{ op: 'remove', path: pointer('redirects', position) }]
            : null,
      },
    ];
  });
}

interface Loop {
  readonly way: Way;
  readonly part: Part;
  readonly visitors: number;
}

/** Returns the visitors whom a redirect leads back to itself, with the visit of some of them. */
function loopBy(prepared: PreparedSite, { redirect }: Sample, way: Way): Loop | null {
  const { atoms } = way.explorer;
  const loops = way.sent.flatMap((sent) =>
    sent.parts.flatMap((part): Loop[] => {
      const { outcome, hops, final } = part.end;
      const isBack =
        final === way.address ||
        hops.some(
          ({ address, decision }) =>
            address === way.address || appliedRedirect(prepared, decision) === redirect,
        );
      const visitors = atoms.sets.and(sent.visitors, part.visitors);
      return outcome === 'loop' && isBack && atoms.isAnyone(visitors)
        ? [{ way, part, visitors }]
        : [];
    }),
  );
  const [first] = loops;
  return first
    ? { ...first, visitors: atoms.sets.anyOf(loops.map(({ visitors }) => visitors)) }
    : null;
}
