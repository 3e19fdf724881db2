import { normalizePath } from '../address/tidy.ts';
import { indexedGates, indexedRedirect, indexedRewrite } from '../decision/prepared-site.ts';
import { tiedAt, ties, type Indexed, type PatternIndex } from '../pattern/pattern-index.ts';
import { literalOf } from '../model/pattern.ts';
import { exampleOf } from '../pattern/example.ts';
import type { Gate, Redirect, Rewrite } from '../model/site.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import type { Tidy } from '../model/tidy.ts';

type Rule = Gate | Redirect | Rewrite;
type TiedKind = 'gates' | 'redirects' | 'rewrites';

/** What a rule is called in the site file: a gate by its name, a redirect or a rewrite by its source. */
const nameOf = (rule: Rule): string => ('source' in rule ? rule.source : rule.name);

/** Two rules of one kind are for the same addresses, and nothing says which of them applies. */
export function tie({ prepared }: InspectionContext): FindingDraft[] {
  const { site, gates, redirects, rewrites } = prepared;
  // Redirects of other hosts, or for other queries, are never for the same requests.
  const requestsOf = ({ host, queryConstraints }: Redirect): string =>
    host === null && queryConstraints.length === 0 ? '' : JSON.stringify([host, queryConstraints]);
  return [
    ...(['view', 'change'] as const).flatMap((right) =>
      tiesAmong('gates', indexedGates(site, right), gates[right], site.tidy),
    ),
    ...tiesAmong(
      'redirects',
      site.redirects.filter((one) => !isAlone(one, redirects)).map(indexedRedirect),
      redirects,
      site.tidy,
      requestsOf,
    ),
    ...tiesAmong('rewrites', site.rewrites.map(indexedRewrite), rewrites, site.tidy),
  ];
}

/** Whether no other redirect has its plain address: of a long list, most. */
function isAlone(redirect: Redirect, { plain }: PatternIndex<Redirect>): boolean {
  const literal = literalOf(redirect.pattern);
  const same = literal === null ? undefined : plain.get(literal);
  return same?.length === 1 && same[0]!.rule === redirect;
}

/**
 * Finds rules that have the same addresses, and rules of which one matches an example of another.
 * @param requestsOf tells rules apart that are never for the same request, whatever its path
 */
function tiesAmong<T extends Rule>(
  kind: TiedKind,
  rules: readonly Indexed<T>[],
  index: PatternIndex<T>,
  tidy: Tidy,
  requestsOf: (rule: T) => string = () => '',
): FindingDraft[] {
  const found = new Map<string, FindingDraft>();
  const add = (tied: readonly T[], address: string | null): void => {
    if (tied.length < 2) return;
    // The same rules may come in another order.
    const key = JSON.stringify(tied.map(nameOf).sort());
    if (!found.has(key)) found.set(key, describeTie(kind, tied, address));
  };
  for (const group of groupBy(rules, ({ rule }) => requestsOf(rule)))
    for (const tied of ties(group)) add(tied, null);
  for (const { pattern, under } of rules) {
    if (literalOf(pattern) !== null && !under) continue;
    const address = normalizePath(exampleOf(pattern, null), tidy);
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

function describeTie(kind: TiedKind, rules: readonly Rule[], address: string | null): FindingDraft {
  return {
    code: 'tie',
    severity: 'medium',
    subject: { kind, name: rules.map(nameOf).join(', ') },
    place: rules.at(-1)!.place,
    values: {
      kind,
      rules: rules.map((rule) => ({ name: nameOf(rule), line: rule.place.line })),
      address,
    },
  };
}
