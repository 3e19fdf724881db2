import { normalizePath } from '../address/tidy.ts';
import { walk, type Condition, type Value } from '../model/condition.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { encodePathText } from '../address/canonical-path.ts';
import { fillPattern } from '../pattern/fill.ts';
import { literalOf, type Pattern } from '../model/pattern.ts';
import { regexpOf } from '../pattern/regexp.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import type { SourceLocation } from '../model/source-location.ts';

/**
 * A page has an address that is a person's: `/people/:name` for people, and a page `/people/rules`. A
 * piece is a person's name where a gate compares it with the visitor, and where it alone stands in a
 * pattern that one of the site's visitors fits.
 */
export function personPageClash({ prepared }: InspectionContext): FindingDraft[] {
  const { pages, visitors } = prepared.site;
  const taken = takenAddresses(prepared);
  const byRule = patternsOfPeople(prepared).flatMap((pattern) =>
    [...taken].flatMap(([path, { address, place }]): FindingDraft[] =>
      // A page beneath a person's address is that person's.
      regexpOf(pattern).matches(path) ? [clash(address, place, pattern, null)] : [],
    ),
  );
  const others = [
    ...pages.map(({ pattern }) => pattern),
    ...prepared.site.rewrites.map(({ pattern }) => pattern),
  ];
  const byVisitor = others
    .filter(({ names, parts }) => names.length === 1 && parts.some(({ is }) => is === 'segment'))
    .flatMap((pattern) =>
      visitors.flatMap(({ id, title }): FindingDraft[] => {
        if (id === null) return [];
        const filled = fillPattern(pattern, { [pattern.names[0]!]: encodePathText(id) });
        const page = taken.get(normalizePath(filled, prepared.site.tidy));
        return page ? [clash(page.address, page.place, pattern, title)] : [];
      }),
    );
  const all = new Map([...byVisitor, ...byRule].map((found) => [found.subject.name, found]));
  return [...all.values()];
}

const clash = (
  address: string,
  place: SourceLocation,
  pattern: Pattern,
  visitor: string | null,
): FindingDraft => ({
  code: 'person-page-clash',
  severity: 'medium',
  subject: { kind: 'page', name: address },
  place,
  values: { page: address, pattern: pattern.text, visitor },
});

/** Every plain address of a page, by the form that it is matched in. */
function takenAddresses({
  site,
}: PreparedSite): Map<string, { address: string; place: SourceLocation }> {
  return new Map(
    site.pages.flatMap(({ address, aliases, pattern, place }) =>
      [...(literalOf(pattern) === null ? [] : [address]), ...aliases].map(
        (one) => [normalizePath(one, site.tidy), { address: one, place }] as const,
      ),
    ),
  );
}

/** The patterns with a piece that a gate compares with who is asking. */
function patternsOfPeople({ site }: PreparedSite): Pattern[] {
  return site.gates.flatMap(({ admit, scopes }) => {
    const pieces = personPieces(admit);
    return scopes
      .map(({ pattern }) => pattern)
      .filter(({ names }) => names.some((name) => pieces.includes(name)));
  });
}

function personPieces(condition: Condition): string[] {
  const pieces: string[] = [];
  const isId = (value: Value): boolean => value.is === 'visitor' && value.name === 'id';
  walk(condition, (inner) => {
    if (inner.is !== 'compare') return;
    for (const [one, other] of [
      [inner.left, inner.right],
      [inner.right, inner.left],
    ] as const)
      if (isId(one) && other.is === 'path') pieces.push(other.name);
  });
  return pieces;
}
