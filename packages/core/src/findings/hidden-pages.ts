import type { Decision } from '../decision/decision.ts';
import { siteAddress } from '../decision/site-address.ts';
import { NONE } from '../explore/visitor-sets.ts';
import type { PatchOperation } from '../model/patch-operation.ts';
import { literalOf } from '../model/pattern.ts';
import type { SourceLocation } from '../model/source-location.ts';
import { visitorsWithPage } from '../reach/reach.ts';
import { appliedRedirect } from '../redirects/applied.ts';
import { leadsToItself } from '../redirects/leads-to-itself.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A redirect applies at the address of a page, to visitors for whom the page is there. */
export function redirectHidesPage(inspected: InspectionContext): FindingDraft[] {
  const { prepared } = inspected;
  const { site } = prepared;
  const hidden = pagesHiddenBy(inspected, 'redirects', (decision) => {
    const redirect = appliedRedirect(prepared, decision);
    // A redirect to its own address is a loop, and has a finding of its own.
    return redirect && leadsToItself(redirect, site) ? null : redirect;
  });
  const positions = new Map(site.redirects.map((redirect, i) => [redirect, i]));
  return hidden.map(({ rule, ...values }) => ({
    code: 'redirect-hides-page',
    severity: values.isForEveryone ? 'high' : 'low',
    subject: { kind: 'redirect', name: rule.source },
    place: rule.place,
    values: { source: rule.source, ...values },
    fix: unlessPage('redirects', positions.get(rule)!, rule.place),
  }));
}

/** A rewrite of many addresses applies at the address of a page, to visitors for whom the page is there. */
export function rewriteHidesPage(inspected: InspectionContext): FindingDraft[] {
  const { rewrites } = inspected.prepared.site;
  const byPlace = new Map(rewrites.map((rewrite) => [rewrite.place, rewrite]));
  const hidden = pagesHiddenBy(inspected, 'rewrites', ({ reasons }) => {
    const place = reasons.find(({ code }) => code === 'rewritten')?.place;
    const rewrite = place ? byPlace.get(place) : undefined;
    // A rewrite of this address alone is intended.
    return rewrite && literalOf(rewrite.pattern) === null ? rewrite : null;
  });
  return hidden.map(({ rule, ...values }) => ({
    code: 'rewrite-hides-page',
    severity: values.isForEveryone ? 'high' : 'low',
    subject: { kind: 'rewrite', name: rule.source },
    place: rule.place,
    values: { source: rule.source, serve: rule.serve.text, ...values },
    fix: unlessPage('rewrites', rewrites.indexOf(rule), rule.place),
  }));
}

interface HiddenPages<R> {
  readonly rule: R;
  readonly pages: readonly string[];
  /** No visitor gets any of these pages. */
  readonly isForEveryone: boolean;
}

/** Finds the pages that rules keep from visitors for whom these pages are there. */
function pagesHiddenBy<R>(
  { prepared, explorer }: InspectionContext,
  kind: 'redirects' | 'rewrites',
  appliedRule: (decision: Decision) => R | null,
): HiddenPages<R>[] {
  const { atoms } = explorer;
  const { sets } = atoms;
  const hidden = new Map<R, { pages: string[]; isForEveryone: boolean }>();
  for (const page of prepared.site.pages) {
    if (literalOf(page.pattern) === null) continue;
    const read = siteAddress(prepared, page.example);
    if (!read.ok || read.address[kind].length === 0) continue;
    const present = visitorsWithPage(explorer, page);
    const taken = new Map<R, number>();
    for (const { visitors, end } of explorer.partsOf(page.example)) {
      const rule = appliedRule(end.hops[0]!.decision);
      const those = sets.and(visitors, present);
      if (rule !== null) taken.set(rule, sets.or(taken.get(rule) ?? NONE, those));
    }
    for (const [rule, visitors] of taken) {
      if (!atoms.isAnyone(visitors)) continue;
      const known = hidden.get(rule) ?? { pages: [], isForEveryone: true };
      known.pages.push(page.address);
      known.isForEveryone &&= !atoms.isAnyone(sets.without(present, visitors));
      hidden.set(rule, known);
    }
  }
  return [...hidden].map(([rule, values]) => ({ rule, ...values }));
}

/** Adds `unless-page` to a rule of the site file; null for a rule of a list beside it. */
const unlessPage = (
  section: 'redirects' | 'rewrites',
  position: number,
  { file }: SourceLocation,
): PatchOperation[] | null =>
  file === undefined
    ? [{ op: 'add', path: pointer(section, position, 'unless-page'), value: 'yes' }]
    : null;
