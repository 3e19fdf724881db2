import { literalOf } from '../pattern/pattern.ts';
import type { PatchOperation } from '../site/problem.ts';
import { pointer } from '../site/pointer.ts';
import type { Found, Inspected } from './found.ts';
import { redirectSamples, type Sample } from './redirect-samples.ts';

/** A redirect leads to another redirect: each hop costs a request, and search engines give up after a few. */
export function redirectChain(inspected: Inspected): Found[] {
  return redirectSamples(inspected).flatMap((sample): Found[] => {
    const { redirect, visit } = sample;
    const chained = visit.hops.filter(({ decision }) =>
      decision.reasons.some(
        ({ stage, verdict }) => stage === 'redirect' && verdict === 'redirected',
      ),
    );
    if (visit.outcome === 'loop' || chained.length < 2) return [];
    const end = chained.at(-1)!.decision.location!;
    const trail = [...chained.map(({ address }) => address), end];
    return [
      {
        code: 'redirect-chain',
        severity: 'low',
        about: `redirect ${redirect.name}`,
        place: redirect.place,
        message: `The redirect from ${redirect.name} leads to another one: ${trail.join(' → ')}.`,
        remedy: `Let it lead to ${end} at once.`,
        fix: shortened(sample, end, inspected),
      },
    ];
  });
}

/** Where all of the chain is plain and for everyone, the first redirect can lead to its end. */
function shortened(
  { redirect, position, visit }: Sample,
  end: string,
  { prepared }: Inspected,
): PatchOperation[] | null {
  const places = visit.hops.flatMap(({ decision }) =>
    decision.reasons.flatMap(({ verdict, place }) => (verdict === 'redirected' ? [place] : [])),
  );
  const rules = prepared.site.redirects.filter(({ place }) =>
    places.some((one) => one?.line === place.line),
  );
  const isPlain = rules.every(
    ({ when, pattern, from, until, unlessPage }) =>
      when === null &&
      !unlessPage &&
      literalOf(pattern) !== null &&
      from === null &&
      until === null,
  );
  return isPlain && literalOf(redirect.pattern) !== null
    ? [{ op: 'replace', path: pointer('redirects', position, 'to'), value: end }]
    : null;
}
