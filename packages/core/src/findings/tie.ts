import { matchForm } from '../address/tidy.ts';
import { indexedGates, indexedRedirect, indexedRewrite } from '../decision/prepared-site.ts';
import { tiedAt, ties, type Indexed, type PatternIndex } from '../pattern/index-of-patterns.ts';
import { literalOf } from '../pattern/pattern.ts';
import { exampleOf } from '../site/example.ts';
import { inWords } from '../text/list.ts';
import type { Place, Redirect } from '../site/site.ts';
import type { Found, Inspected } from './found.ts';

/** Two rules of one kind are for the same addresses, and nothing says which of them applies. */
export function tie({ prepared }: Inspected): Found[] {
  const { site, gates, redirects, rewrites } = prepared;
  const byRight = (['view', 'change'] as const).map(
    (right) => [indexedGates(site, right), gates[right]] as const,
  );
  // Redirects of other hosts, or for other queries, are never for the same addresses.
  const kinds = new Map<string, Redirect[]>();
  for (const redirect of site.redirects) {
    const key = JSON.stringify([redirect.host, redirect.asked]);
    const same = kinds.get(key);
    if (same) same.push(redirect);
    else kinds.set(key, [redirect]);
  }
  const atHome = site.redirects.filter(({ host }) => host === null).map(indexedRedirect);
  const { tidy } = site;
  const rewritten = site.rewrites.map(indexedRewrite);
  const form = (pattern: Parameters<typeof exampleOf>[0]): string =>
    matchForm(exampleOf(pattern, null), tidy);
  return [
    ...byRight.flatMap(([rules, index]) => overlaps('gates', rules, index, form)),
    ...[...kinds.values()].flatMap((same) =>
      ties(same.map(indexedRedirect)).map((tied) => found('redirects', tied, null)),
    ),
    ...overlaps('redirects', atHome, redirects, form).filter(({ isSameForm }) => !isSameForm),
    ...overlaps('rewrites', rewritten, rewrites, form),
  ].map(({ isSameForm: _, ...one }) => one);
}

interface Tie extends Found {
  readonly isSameForm: boolean;
}

/** Rules that have the same addresses, and rules of which one matches an example of another. */
function overlaps<T extends { readonly name: string; readonly place: Place }>(
  kind: string,
  rules: readonly Indexed<T>[],
  index: PatternIndex<T>,
  form: (pattern: Indexed<T>['pattern']) => string,
): Tie[] {
  const same = ties(rules).map((tied) => found(kind, tied, null));
  const known = new Set(same.map(({ about }) => about));
  const others: Tie[] = [];
  for (const { pattern, under } of rules) {
    if (literalOf(pattern) !== null && !under) continue;
    const address = form(pattern);
    for (const tied of tiedAt(index, address)) {
      const one = found(kind, tied, address);
      if (known.has(one.about)) continue;
      known.add(one.about);
      others.push(one);
    }
  }
  return [...same, ...others];
}

function found(
  kind: string,
  rules: readonly { name: string; place: Place }[],
  address: string | null,
): Tie {
  const named = inWords(rules.map(({ name, place }) => `${name} (line ${place.line})`));
  const both = address === null ? 'are for the same addresses' : `are all for ${address}`;
  return {
    code: 'tie',
    severity: 'medium',
    about: `${kind} ${rules.map(({ name }) => name).join(', ')}`,
    place: rules.at(-1)!.place,
    message: `The ${kind} ${named} ${both}, and only their names settle which one applies.`,
    remedy: 'Remove all but one, or give the one that is to apply a higher "rank".',
    isSameForm: address === null,
  };
}
