import { phaseAt } from '../time/period.ts';
import type { SiteAddress } from './site-address.ts';
import { decodeGroups, type Groups } from '../pattern/fill.ts';
import type { Page, Rewrite } from '../model/site.ts';
import { visiblePage } from './concealment.ts';
import { holds, type DecisionContext, type Ending, type FoundPage } from './decision.ts';
import type { Reason, Told } from '../model/reason.ts';

const NONE: Reason = {
  stage: 'page',
  rule: null,
  verdict: 'missing',
  code: 'no-page',
  values: { isServed: false },
  place: null,
};

const UNDECLARED: Reason = {
  ...NONE,
  verdict: 'found',
  code: 'undeclared',
  values: {},
};

const NONE_SERVED: Reason = {
  ...NONE,
  code: 'no-page',
  values: { isServed: true },
};

/**
 * Finds the page: an exact one before a pattern. Where an address is served from another, what is
 * known of either must be there. What is not there is left to the not-found stage.
 */
export function pageStage(context: DecisionContext): Ending | null {
  const requested = findPage(context);
  const none = isLeftToWebsite(context) ? UNDECLARED : NONE;
  if (requested?.byFullAccess) context.fullAccess = true;
  if (context.served === null || requested?.exists === false) {
    context.reasons.push(requested?.reason ?? none);
    return null;
  }
  const { address, rewrite } = context.served;
  const served = address === null ? elsewhere(rewrite) : look(context, address);
  const noneServed = isLeftToWebsite(context) ? UNDECLARED : NONE_SERVED;
  context.reasons.push(requested?.reason ?? served?.reason ?? noneServed);
  if (served?.byFullAccess) context.fullAccess = true;
  // What the website has is shown as the page that is asked for: its `leads-to` counts.
  const isShown = served?.exists ?? isLeftToWebsite(context);
  if (isShown) context.found = requested ?? served;
  else {
    if (requested) context.reasons.push(served?.reason ?? noneServed);
    context.found = served;
  }
  return null;
}

/** Whether the website itself is asked where no page is declared. */
export const isLeftToWebsite = ({ prepared: { site }, address }: DecisionContext): boolean =>
  site.undeclared === 'website' && address.isHome;

/** What another server has is not known page by page: all that is served from there counts as one. */
function elsewhere({ source: name, pattern, serve, place }: Rewrite): FoundPage {
  const page: Page = {
    address: name,
    aliases: [],
    pattern,
    title: name,
    kind: 'file',
    missingUnless: null,
    validFrom: null,
    validUntil: null,
    draft: false,
    leadsTo: null,
    https: false,
    refresh: null,
    listed: true,
    inGrid: true,
    example: name,
    place,
  };
  const reason: Reason = {
    stage: 'page',
    rule: null,
    verdict: 'found',
    code: 'on-other-server',
    values: { origin: serve.origin! },
    place: null,
  };
  return { page, groups: {}, exists: true, byFullAccess: false, reason };
}

/** The page at the address of a request; several stages ask, and it is looked up once. */
export function findPage(context: DecisionContext): FoundPage | null {
  if (context.found === undefined) context.found = look(context, context.address);
  return context.found;
}

/** The page at an address that the visitor may know of, and whether it is there for them. */
export function look(context: DecisionContext, address: SiteAddress): FoundPage | null {
  const match = visiblePage(context, address);
  if (match === null) return null;
  const { query } = address;
  const { page, found } = match.rule;
  const { groups } = match;
  const absence = absenceOf(context, page, groups, query);
  if (absence !== null) {
    const reason = missing(page, absence);
    return { page, groups, exists: false, byFullAccess: false, reason };
  }
  return { page, groups, exists: true, byFullAccess: page.draft, reason: found };
}

function absenceOf(
  context: DecisionContext,
  page: Page,
  groups: Groups,
  query: string,
): Told | null {
  const { fullAccess } = context.prepared.site;
  if (page.draft) {
    context.readsVisitor = true;
    if (fullAccess === null || !holds(context, fullAccess, {}))
      return { code: 'page-draft', values: { page: page.address } };
  }
  const phase = phaseAt(page.validFrom, page.validUntil, context.at);
  if (phase === 'before')
    return {
      code: 'page-not-yet',
      values: { page: page.address, validFrom: page.validFrom! },
    };
  if (phase === 'after')
    return {
      code: 'page-no-longer',
      values: { page: page.address, validUntil: page.validUntil! },
    };
  if (page.missingUnless !== null) {
    if (!holds(context, page.missingUnless, decodeGroups(groups), { query })) {
      return {
        code: 'page-missing-unless',
        values: { page: page.address, condition: page.missingUnless },
      };
    }
  }
  return null;
}

const missing = (page: Page, told: Told): Reason => ({
  stage: 'page',
  rule: `page ${page.address}`,
  verdict: 'missing',
  ...told,
  place: page.place,
});
