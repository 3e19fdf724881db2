import { siteAddress } from '../decision/site-address.ts';
import { literalOf } from '../model/pattern.ts';
import { appliedRedirect } from '../redirects/applied.ts';
import { leadsToItself } from '../redirects/leads-to-itself.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { Redirect } from '../model/site.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/**
 * A redirect stands before a page that is there: nobody reaches the page, or some do not. One that leads
 * to itself is a loop and nothing else.
 */
export function redirectHidesPage({ prepared, explorer }: InspectionContext): FindingDraft[] {
  const { pages, redirects } = prepared.site;
  const hidden = new Map<Redirect, { pages: string[]; isForEveryone: boolean }>();
  for (const page of pages) {
    if (literalOf(page.pattern) === null) continue;
    const read = siteAddress(prepared, page.example);
    if (read.ok && read.address.redirects.length === 0) continue;
    const parts = explorer.partsOf(page.example);
    const sentBy = parts.map(({ end }) => appliedRedirect(prepared, end.hops[0]!.decision));
    for (const redirect of new Set(sentBy)) {
      if (redirect === null || leadsToItself(redirect, prepared.site)) continue;
      const known = hidden.get(redirect) ?? { pages: [], isForEveryone: true };
      known.pages.push(page.address);
      known.isForEveryone &&= sentBy.every((one) => one === redirect);
      hidden.set(redirect, known);
    }
  }
  const positions = new Map(redirects.map((redirect, i) => [redirect, i]));
  return [...hidden].map(([redirect, { pages, isForEveryone }]) => ({
    code: 'redirect-hides-page',
    severity: isForEveryone ? 'high' : 'low',
    subject: { kind: 'redirect', name: redirect.source },
    place: redirect.place,
    values: { source: redirect.source, pages, isForEveryone },
    fix:
      redirect.place.file === undefined
        ? [
            {
              op: 'add' as const,
              path: pointer('redirects', positions.get(redirect)!, 'unless-page'),
              value: 'yes',
            },
          ]
        : null,
  }));
}
