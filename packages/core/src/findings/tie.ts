import { matchForm } from '../address/tidy.ts';
import { indexedGates, indexedRedirect, indexedRewrite } from '../decision/prepared-site.ts';
import { tiedAt, ties, type Indexed, type PatternIndex } from '../pattern/pattern-index.ts';
import { literalOf } from '../model/pattern.ts';
import { exampleOf } from '../pattern/example.ts';
import { inWords } from '../text/list.ts';
import type { Redirect } from '../model/site.ts';
import type { Found, Inspected } from './finding-draft.ts';
import type { Tidy } from '../model/tidy.ts';
import type { Place } from '../model/source-location.ts';

/** Two rules of one kind are for the same addresses, and nothing says which of them applies. */
export function tie({ prepared }: Inspected): Found[] {
  const { site, gates, redirects, rewrites } = prepared;
  // Redirects of other hosts, or for other queries, are never for the same requests.
  const requestsOf = ({ host, asked }: Redirect): string => JSON.stringify([host, asked]);
  return [
    ...(['view', 'change'] as const).flatMap((right) =>
      tiesAmong('gates', indexedGates(site, right), gates[right], site.tidy),
    ),
    ...tiesAmong(
      'redirects',
      site.redirects.map(indexedRedirect),
      redirects,
      site.tidy,
      requestsOf,
    ),
    ...tiesAmong('rewrites', site.rewrites.map(indexedRewrite), rewrites, site.tidy),
  ];
}

/**
 * Finds rules that have the same addresses, and rules of which one matches an example of another.
 * @param requestsOf tells rules apart that are never for the same request, whatever its path
 */
function tiesAmong<T extends { readonly name: string; readonly place: Place }>(
  kind: string,
  rules: readonly Indexed<T>[],
  index: PatternIndex<T>,
  tidy: Tidy,
  requestsOf: (rule: T) => string = () => '',
): Found[] {
  const found = new Map<string, Found>();
  const add = (tied: readonly T[], address: string | null): void => {
    if (tied.length < 2) return;
    // The same rules may come in another order.
    const key = JSON.stringify(tied.map(({ name }) => name).sort());
    if (!found.has(key)) found.set(key, describeTie(kind, tied, address));
  };
  for (const group of groupBy(rules, ({ rule }) => requestsOf(rule)))
    for (const tied of ties(group)) add(tied, null);
  for (const { pattern, under } of rules) {
    if (literalOf(pattern) !== null && !under) continue;
    const address = matchForm(exampleOf(pattern, null), tidy);
    for (const tied of tiedAt(index, address))
      for (const group of groupBy(tied, requestsOf)) add(group, address);
  }
  return [...found.values()];
}

function groupBy<T>(items: readonly T[], keyOf: (item: T) => string): T[][] {
  const groups = new Map<string, T[]>();
  for (const item of items) {
    const key = keyOf(item);
    const group = groups.get(key);
    if (group) group.push(item);
    else groups.set(key, [item]);
  }
  return [...groups.values()];
}

function describeTie(
  kind: string,
  rules: readonly { name: string; place: Place }[],
  address: string | null,
): Found {
  const named = inWords(rules.map(({ name, place }) => `${name} (line ${place.line})`));
  const both = address === null ? 'are for the same addresses' : `are all for ${address}`;
  return {
    code: 'tie',
    severity: 'medium',
    about: `${kind} ${rules.map(({ name }) => name).join(', ')}`,
    place: rules.at(-1)!.place,
    message: `The ${kind} ${named} ${both}, and only their names settle which one applies.`,
    remedy: 'Remove all but one, or give the one that is to apply a higher "rank".',
  };
}
