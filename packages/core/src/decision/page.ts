import { lookUp } from '../pattern/index-of-patterns.ts';
import type { Groups } from '../pattern/fill.ts';
import { decodePathText } from '../pattern/canonical.ts';
import { printCondition } from '../condition/print.ts';
import { printDay } from '../time/instant.ts';
import type { Page } from '../site/site.ts';
import { holds, type Deciding, type Ending, type FoundPage } from './decision.ts';
import type { Reason } from './reason.ts';

const NONE: Reason = {
  stage: 'page',
  rule: null,
  verdict: 'missing',
  text: 'There is no page at this address.',
  place: null,
};

/** Finds the page: an exact one before a pattern. What is not there is left to the not-found stage. */
export function pageStage(on: Deciding): Ending | null {
  on.reasons.push(findPage(on)?.reason ?? NONE);
  return null;
}

/** The page at the address of a request; several stages ask, and it is looked up once. */
export function findPage(on: Deciding): FoundPage | null {
  if (on.found === undefined) on.found = look(on);
  return on.found;
}

function look(on: Deciding): FoundPage | null {
  if (on.address.host !== on.prepared.site.host) return null;
  const [match] = lookUp(on.prepared.pages, on.address.path);
  if (match === undefined) return null;
  const { page, found } = match.rule;
  const { groups } = match;
  const absence = absenceOf(on, page, groups);
  if (absence !== null) {
    return { page, groups, exists: false, reason: missing(page, absence) };
  }
  return { page, groups, exists: true, reason: found };
}

function absenceOf(on: Deciding, page: Page, groups: Groups): string | null {
  const { timeZone, fullAccess } = on.prepared.site;
  if (page.draft) {
    on.readsVisitor = true;
    if (fullAccess === null || !holds(on, fullAccess, {}))
      return `The page ${page.address} is a draft.`;
    on.fullAccess = true;
  }
  if (page.from !== null && on.at < page.from)
    return `The page ${page.address} opens on ${printDay(page.from, timeZone)}.`;
  if (page.until !== null && on.at >= page.until)
    return `The page ${page.address} closed on ${printDay(page.until, timeZone)}.`;
  if (page.missingUnless !== null) {
    const path = Object.fromEntries(
      Object.entries(groups).map(([name, value]) => [name, decodePathText(value)]),
    );
    if (!holds(on, page.missingUnless, path)) {
      return `The page ${page.address} is there only if ${printCondition(page.missingUnless)}.`;
    }
  }
  return null;
}

const missing = (page: Page, text: string): Reason => ({
  stage: 'page',
  rule: `page ${page.address}`,
  verdict: 'missing',
  text,
  place: page.place,
});
