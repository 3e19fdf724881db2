import { indexedGates, indexedRedirect, indexedRewrite } from '../decision/prepared-site.ts';
import { ties } from '../pattern/index-of-patterns.ts';
import { inWords } from '../text/list.ts';
import type { Place, Redirect } from '../site/site.ts';
import type { Found, Inspected } from './found.ts';

/** Two rules of one kind are for the same addresses, and nothing says which of them applies. */
export function tie({ prepared: { site } }: Inspected): Found[] {
  const gates = (['view', 'change'] as const).flatMap((right) => ties(indexedGates(site, right)));
  // Redirects of other hosts, or for other queries, are never for the same addresses.
  const kinds = new Map<string, Redirect[]>();
  for (const redirect of site.redirects) {
    const key = JSON.stringify([redirect.host, redirect.asked]);
    const same = kinds.get(key);
    if (same) same.push(redirect);
    else kinds.set(key, [redirect]);
  }
  const redirects = [...kinds.values()].flatMap((same) => ties(same.map(indexedRedirect)));
  return [
    ...gates.map((same) => found('gates', same)),
    ...redirects.map((same) => found('redirects', same)),
    ...ties(site.rewrites.map(indexedRewrite)).map((same) => found('rewrites', same)),
  ];
}

function found(kind: string, rules: readonly { name: string; place: Place }[]): Found {
  const named = inWords(rules.map(({ name, place }) => `${name} (line ${place.line})`));
  return {
    code: 'tie',
    severity: 'medium',
    about: `${kind} ${rules.map(({ name }) => name).join(', ')}`,
    place: rules.at(-1)!.place,
    message: `The ${kind} ${named} are for the same addresses, and only their names settle which one applies.`,
    remedy: 'Remove all but one, or give the one that is to apply a higher "rank".',
  };
}
