import { normalizePath } from '../address/tidy.ts';
import { fillPattern } from '../pattern/fill.ts';
import { lookUp } from '../pattern/pattern-index.ts';
import { literalOf, type Pattern } from '../model/pattern.ts';
import type { Redirect } from '../model/site.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A redirect that never applies, because another one is always first at its addresses. */
export function redirectShadowed({ prepared }: InspectionContext): FindingDraft[] {
  const { site, redirects, redirectsByHost } = prepared;
  return site.redirects.flatMap((redirect): FindingDraft[] => {
    const { host, source: name, place, pattern, queryConstraints: queryConstraints } = redirect;
    const index = host === null || host === site.host ? redirects : redirectsByHost.get(host);
    const query =
      queryConstraints.length === 0
        ? ''
        : new URLSearchParams(
            queryConstraints.map(({ field, value }) => [field, value ?? 'zq7']),
          ).toString();
    const firstAt = (address: string): Redirect | null => {
      const matches = index ? lookUp(index, normalizePath(address, site.tidy), query) : [];
      if (matches.length < 2) return null;
      const own = matches.findIndex(({ rule }) => rule === redirect);
      const before = matches
        .slice(0, Math.max(own, 0))
        .find(({ rule }) => isAlways(rule, redirect) && !isTie(rule, redirect));
      return before?.rule ?? null;
    };
    const literal = literalOf(pattern);
    // A rule that is first wherever a pattern is filled with what nobody thought of is first everywhere.
    const firsts = (literal === null ? anyAddresses(pattern) : [literal]).map(firstAt);
    const [before] = firsts;
    if (!before || firsts.some((one) => one !== before)) return [];
    return [
      {
        code: 'redirect-shadowed',
        severity: 'medium',
        subject: { kind: 'redirect', name: name },
        place,
        values: { source: name, before: before.source, line: before.place.line },
      },
    ];
  });
}

/** Addresses that a pattern matches, filled with what no rule names; none where a piece has a form of its own. */
function anyAddresses(pattern: Pattern): string[] {
  if (pattern.parts.some((part) => part.is === 'regexp' || part.modifier !== '')) return [];
  return ['zq7', 'kx3/wj9', 'vf2/qy5/hb8'].map((deep) =>
    fillPattern(
      pattern,
      Object.fromEntries(
        pattern.parts.flatMap((part) =>
          part.is === 'text' ? [] : [[part.name, part.is === 'wildcard' ? deep : deep.slice(0, 3)]],
        ),
      ),
    ),
  );
}

/** Whether a redirect applies to whatever query another one is for, whoever asks and whenever. */
const isAlways = (
  {
    when,
    validFrom: from,
    validUntil: until,
    unlessPage,
    queryConstraints: queryConstraints,
  }: Redirect,
  other: Redirect,
): boolean =>
  when === null &&
  from === null &&
  until === null &&
  !unlessPage &&
  (queryConstraints.length === 0 ||
    JSON.stringify(queryConstraints) === JSON.stringify(other.queryConstraints));

/** Two that only their names tell apart are found as a tie. */
const isTie = (one: Redirect, other: Redirect): boolean =>
  one.rank === other.rank && one.pattern.text === other.pattern.text;
