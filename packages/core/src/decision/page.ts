import type { Address } from '../address/address.ts';
import { lookUp } from '../pattern/pattern-index.ts';
import type { Groups } from '../pattern/fill.ts';
import { decodePathText } from '../address/canonical-path.ts';
import { printCondition } from '../condition/print.ts';
import { printDay } from '../time/instant.ts';
import type { Page, Rewrite } from '../model/site.ts';
import { holds, type Deciding, type Ending, type FoundPage } from './decision.ts';
import type { Reason } from './reason.ts';

const NONE: Reason = {
  stage: 'page',
  rule: null,
  verdict: 'missing',
  text: 'There is no page at this address.',
  place: null,
};

const UNDECLARED: Reason = {
  ...NONE,
  verdict: 'found',
  text: 'No page is declared here; the website answers.',
};

const NONE_SERVED: Reason = {
  ...NONE,
  text: 'There is no page at the address that it is served from.',
};

/**
 * Finds the page: an exact one before a pattern. Where an address is served from another, what is
 * known of either must be there. What is not there is left to the not-found stage.
 */
export function pageStage(on: Deciding): Ending | null {
  const asked = findPage(on);
  const none = isLeftToWebsite(on) ? UNDECLARED : NONE;
  if (asked?.byFullAccess) on.fullAccess = true;
  if (on.served === null || asked?.exists === false) {
    on.reasons.push(asked?.reason ?? none);
    return null;
  }
  const { address, rewrite } = on.served;
  const served = address === null ? elsewhere(rewrite) : look(on, address);
  const noneServed = isLeftToWebsite(on) ? UNDECLARED : NONE_SERVED;
  on.reasons.push(asked?.reason ?? served?.reason ?? noneServed);
  if (served?.byFullAccess) on.fullAccess = true;
  if (served?.exists) on.found = asked ?? served;
  else {
    if (asked) on.reasons.push(served?.reason ?? noneServed);
    on.found = served;
  }
  return null;
}

/** Whether the website itself is asked where no page is declared. */
export const isLeftToWebsite = ({ prepared: { site }, address }: Deciding): boolean =>
  site.undeclared === 'website' && address.host === site.host;

/** What another server has is not known page by page: all that is served from there counts as one. */
function elsewhere({ name, pattern, serve, place }: Rewrite): FoundPage {
  const page: Page = {
    address: name,
    aliases: [],
    pattern,
    title: name,
    kind: 'file',
    missingUnless: null,
    from: null,
    until: null,
    draft: false,
    leadsTo: null,
    https: false,
    refresh: null,
    listed: true,
    inGrid: true,
    example: name,
    place,
  };
  const text = `What is there is for ${serve.origin} to say.`;
  const reason: Reason = { stage: 'page', rule: null, verdict: 'found', text, place: null };
  return { page, groups: {}, exists: true, byFullAccess: false, reason };
}

/** The page at the address of a request; several stages ask, and it is looked up once. */
export function findPage(on: Deciding): FoundPage | null {
  if (on.found === undefined) on.found = look(on, on.address);
  return on.found;
}

function look(on: Deciding, { host, path, query }: Address): FoundPage | null {
  if (host !== on.prepared.site.host) return null;
  const [match] = lookUp(on.prepared.pages, path);
  if (match === undefined) return null;
  const { page, found } = match.rule;
  const { groups } = match;
  const absence = absenceOf(on, page, groups, query);
  if (absence !== null) {
    const reason = missing(page, absence);
    return { page, groups, exists: false, byFullAccess: false, reason };
  }
  return { page, groups, exists: true, byFullAccess: page.draft, reason: found };
}

function absenceOf(on: Deciding, page: Page, groups: Groups, query: string): string | null {
  const { timeZone, fullAccess } = on.prepared.site;
  if (page.draft) {
    on.readsVisitor = true;
    if (fullAccess === null || !holds(on, fullAccess, {}))
      return `The page ${page.address} is a draft.`;
  }
  if (page.from !== null && on.at < page.from)
    return `The page ${page.address} opens on ${printDay(page.from, timeZone)}.`;
  if (page.until !== null && on.at >= page.until)
    return `The page ${page.address} closed on ${printDay(page.until, timeZone)}.`;
  if (page.missingUnless !== null) {
    const path = Object.fromEntries(
      Object.entries(groups).map(([name, value]) => [name, decodePathText(value)]),
    );
    if (!holds(on, page.missingUnless, path, { query })) {
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
