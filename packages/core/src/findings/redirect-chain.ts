import { literalOf } from '../model/pattern.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { redirectSamples, type Sample } from './redirect-samples.ts';
import type { PatchOperation } from '../model/patch-operation.ts';

/** The target of a redirect is redirected again: each hop costs a request, and search engines give up after a few. */
export function redirectChain(inspected: InspectionContext): FindingDraft[] {
  return redirectSamples(inspected)
    .filter(({ outcome, chain }) => outcome !== 'loop' && chain.length > 1)
    .map((sample) => {
      const { redirect, chain } = sample;
      const end = chain.at(-1)!.location;
      const trail = [...chain.map(({ address }) => address), end];
      return {
        code: 'redirect-chain',
        severity: 'low',
        subject: { kind: 'redirect', name: redirect.source },
        place: redirect.place,
        values: { source: redirect.source, met: trail },
        fix: shortened(sample, end),
      };
    });
}

/** Where all of the chain is plain and for everyone, the first redirect can lead to its end. */
function shortened({ position, chain }: Sample, end: string): PatchOperation[] | null {
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
