import { literalOf } from '../model/pattern.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { Part } from '../explore/part.ts';
import type { Redirect } from '../model/site.ts';
import { appliedRedirect } from '../redirects/applied.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { findWay, isFilled, partsThat, redirectSamples, type Way } from './redirect-samples.ts';
import type { PatchOperation } from '../model/patch-operation.ts';

/**
 * The target of a redirect is redirected again; if it is filled with pieces of the address, each of the targets is. Each
 * hop costs a request, and search engines give up after a few.
 */
export function redirectChain(inspected: InspectionContext): FindingDraft[] {
  const { prepared } = inspected;
  /** Consecutive redirects. A redirect by a gate or a page ends the chain. */
  const stepsOf = ({ end }: Part): Step[] => {
    const steps: Step[] = [];
    for (const { address, decision } of end.hops) {
      const rule = appliedRedirect(prepared, decision);
      if (rule === null || decision.location === null) break;
      steps.push({ rule, address, location: decision.location });
    }
    return steps;
  };
  const chained = partsThat((part) => part.end.outcome !== 'loop' && stepsOf(part).length > 0);
  return redirectSamples(inspected).flatMap((sample): FindingDraft[] => {
    const { redirect, position } = sample;
    const found = findWay(sample, chained);
    if (found === null) return [];
    const isChained = (way: Way): boolean => findWay({ ...sample, ways: [way] }, chained) !== null;
    if (isFilled(redirect) && !sample.ways.every(isChained)) return [];
    const { address } = found.way;
    const { location } = found.sent;
    const chain = [{ rule: redirect, address, location }, ...stepsOf(found.part)];
    const end = chain.at(-1)!.location;
    return [
      {
        code: 'redirect-chain',
        severity: 'low',
        subject: { kind: 'redirect', name: redirect.source },
        place: redirect.place,
        values: { source: redirect.source, met: [...chain.map((step) => step.address), end] },
        fix: shortened(position, chain, end),
      },
    ];
  });
}

/** A redirect that was followed. */
interface Step {
  readonly rule: Redirect;
  readonly address: string;
  readonly location: string;
}

/** Where all of the chain is plain and for everyone, the first redirect can lead to its end. */
function shortened(
  position: number | null,
  chain: readonly Step[],
  end: string,
): PatchOperation[] | null {
  const isPlain = chain.every(
    ({
      rule: {
        when,
        pattern,
        validFrom: from,
        validUntil: until,
        unlessPage,
        queryConstraints: queryConstraints,
      },
    }) =>
      when === null &&
      !unlessPage &&
      queryConstraints.length === 0 &&
      literalOf(pattern) !== null &&
      from === null &&
      until === null,
  );
  return isPlain && position !== null
    ? [{ op: 'replace', path: pointer('redirects', position, 'to'), value: end }]
    : null;
}
