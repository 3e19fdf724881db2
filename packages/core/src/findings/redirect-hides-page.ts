import { isInForce } from '../time/period.ts';
import { lookUp } from '../pattern/pattern-index.ts';
import { literalOf } from '../model/pattern.ts';
import { pathOf } from '../reach/who-reaches.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { Redirect } from '../model/site.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A redirect stands before a page that is there: nobody reaches the page, or some do not. */
export function redirectHidesPage({ prepared, at }: InspectionContext): FindingDraft[] {
  const { pages, redirects } = prepared.site;
  const hidden = new Map<Redirect, string[]>();
  for (const page of pages) {
    if (literalOf(page.pattern) === null) continue;
    const match = lookUp(prepared.redirects, pathOf(prepared, page)).find(
      ({ rule }) =>
        rule.inverseOf === null &&
        !rule.unlessPage &&
        rule.queryConstraints.length === 0 &&
        isInForce(rule, at),
    );
    if (match) hidden.set(match.rule, [...(hidden.get(match.rule) ?? []), page.address]);
  }
  return [...hidden].map(([redirect, addresses]) => ({
    code: 'redirect-hides-page',
    severity: redirect.when === null ? 'high' : 'low',
    subject: { kind: 'redirect', name: redirect.source },
    place: redirect.place,
    values: {
      source: redirect.source,
      pages: addresses,
      isForEveryone: redirect.when === null,
    },
    fix:
      redirect.place.file === undefined
        ? [
            {
              op: 'add' as const,
              path: pointer('redirects', redirects.indexOf(redirect), 'unless-page'),
              value: 'yes',
            },
          ]
        : null,
  }));
}
