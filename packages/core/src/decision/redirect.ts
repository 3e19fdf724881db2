import type { Match } from '../pattern/pattern-index.ts';
import { canonicalPath } from '../address/canonical-path.ts';
import type { Groups } from '../pattern/fill.ts';
import { matchQuery, withoutFields } from '../pattern/query.ts';
import { fillTarget } from '../pattern/target.ts';
import type { Redirect, Wait } from '../model/site.ts';
import { isView, type DecisionContext, type Ending } from './decision.ts';
import { rewriteSkipReason, skipReason, type SkipReason } from './skip-reason.ts';
import type { NamedRule, Reason, Told } from '../model/reason.ts';
import { isNormalized } from '../address/normalized.ts';
import { encodeLocation } from '../address/location.ts';
import type { Address } from '../address/address.ts';
import { isSimple, withFinalSlash } from '../address/tidy.ts';
import type { PreparedSite } from './prepared-site.ts';
import { siteAddress, type RedirectLocation, type SiteAddress } from './site-address.ts';
import { hidesFromSome, isHidden, visiblePrimary } from './concealment.ts';
import { hide } from './not-found.ts';
import { tidyPath } from './locations.ts';
import { findPage, look } from './page.ts';
import { tell } from './tell.ts';

const NO_PIECES: Groups = Object.freeze({});

const NONE: Reason = {
  stage: 'redirect',
  rule: null,
  verdict: 'passed',
  code: 'no-redirect',
  values: {},
  place: null,
};

/** Applies the most specific redirect whose condition, dates and `unless-page` hold. */
export function redirectStage(context: DecisionContext): Ending | null {
  const ending = redirectAt(context);
  const { isHome, host } = context.address;
  if (ending !== null || isHome) return ending;
  context.reasons.push({
    stage: 'redirect',
    rule: null,
    verdict: 'missing',
    code: 'redirects-only',
    values: { host },
    place: null,
  });
  return { outcome: 'missing', status: 404 };
}

/** The redirect that applies at the host that is asked; null where none does. */
export function redirectAt(context: DecisionContext): Ending | null {
  const { address } = context;
  const matches = address.redirects;
  if (matches.length === 0) {
    context.reasons.push(NONE);
    return null;
  }
  // Counted, because an iterator costs as much as a look-up in a decision.
  for (let position = 0; position < matches.length; position++) {
    const { rule, groups } = matches[position]!;
    const fromQuery =
      rule.queryConstraints.length === 0
        ? NO_PIECES
        : matchQuery(rule.queryConstraints, address.query);
    const match =
      fromQuery === NO_PIECES ? matches[position]! : { rule, groups: { ...groups, ...fromQuery } };
    const objection =
      fromQuery === null
        ? ({ code: 'other-query', values: { source: rule.source } } as const)
        : skipReasonFor(context, match);
    if (objection !== null) {
      context.reasons.push(reason(match.rule, 'skipped', objection));
      continue;
    }
    const ending = isBackHidden(context, match) ? hide(context) : apply(context, match);
    for (let other = position + 1; other < matches.length; other++) {
      const { rule } = matches[other]!;
      context.reasons.push(reason(rule, 'skipped', { code: 'less-specific', values: named(rule) }));
    }
    return ending;
  }
  return null;
}

/** Why a redirect that matches does not apply; null when it does. */
function skipReasonFor(
  context: DecisionContext,
  { rule, groups }: Match<Redirect>,
): SkipReason | Told<'not-inverse'> | null {
  const skipped = skipReason(context, named(rule), rule, groups);
  if (skipped !== null || rule.inverseOf === null || servedFrom(context, rule, groups) !== null)
    return skipped;
  return { code: 'not-inverse', values: { source: rule.inverseOf.source } };
}

/** Whether a redirect leads back to the readable address of what is asked for, and that is hidden from the visitor. */
function isBackHidden(context: DecisionContext, { rule, groups }: Match<Redirect>): boolean {
  if (rule.inverseOf === null || !context.prepared.hides) return false;
  const back = servedFrom(context, rule, groups);
  return back !== null && isHidden(context, back);
}

const named = ({ source }: Redirect): NamedRule => ({ kind: 'redirect', name: source });

/**
 * Returns the address that a canonical rewrite serves from the one asked for; null where it serves none, or has a page
 * that is not there. The page at it makes no difference where it is hidden from the visitor.
 */
function servedFrom(context: DecisionContext, rule: Redirect, groups: Groups): SiteAddress | null {
  const { prepared } = context;
  const back = siteAddress(prepared, fillTarget(rule.to, groups, keptQuery(context, rule)));
  if (!back.ok) return null;
  const { address } = back;
  const there = { ...context, address, found: undefined, served: null, reasons: [] };
  const isGone = findPage(there)?.exists === false;
  const first = isGone
    ? undefined
    : address.rewrites.find((match) => rewriteSkipReason(there, match) === null);
  context.readsVisitor ||= there.readsVisitor;
  context.readsLanguage ||= there.readsLanguage;
  if (first?.rule !== rule.inverseOf) return null;
  const ignoreCase = prepared.site.tidy.case === 'lower';
  const isSame = Object.entries(first.groups).every(
    ([name, value]) => canonicalPath(groups[name] ?? '', { ignoreCase }) === value,
  );
  return isSame ? address : null;
}

/** The query as asked for, without the fields that the redirect is for. */
const keptQuery = ({ address }: DecisionContext, { query, queryConstraints }: Redirect): string =>
  query === 'keep'
    ? withoutFields(
        queryConstraints.map(({ field }) => field),
        address.query,
      )
    : '';

function locationOf(context: DecisionContext, match: Match<Redirect>): RedirectLocation {
  const { address, prepared } = context;
  // An alias may lead on for some visitors only.
  if (prepared.hides || prepared.primary.size > 0) return findLocation(context, match);
  if (address.redirected?.rule !== match.rule) address.redirected = findLocation(context, match);
  return address.redirected;
}

function findLocation(
  context: DecisionContext,
  { rule, groups }: Match<Redirect>,
): RedirectLocation {
  const { prepared, address } = context;
  const { site, hosts } = prepared;
  const target = tidied(context, fillTarget(rule.to, groups, keptQuery(context, rule)));
  const home = `${site.protocol}//${site.host}`;
  const location = target.startsWith('/')
    ? address.isHome
      ? target
      : home + target
    : address.isHome && target.startsWith(`${home}/`)
      ? target.slice(home.length)
      : target;
  return {
    rule,
    location,
    isAway: !location.startsWith('/') && !hosts.has(new URL(location).host),
  };
}

function apply(context: DecisionContext, match: Match<Redirect>): Ending {
  const { rule } = match;
  const { location, isAway } = locationOf(context, match);
  const wait = isView(context.request.method) ? rule.wait : null;
  // Where a gate hides the address, some visitors may reach a page here, whether there is one or not.
  const isInstead =
    rule.unlessPage && context.address.isHome && hidesFromSome(context, context.address);
  // A browser keeps a permanent redirect for everyone who uses it: it must be for everyone.
  const forSome = (rule.when !== null && rule.when.is !== 'anyone') || (isInstead && wait !== null);
  const permanent =
    rule.kind === 'permanent' &&
    !forSome &&
    !isInstead &&
    !context.readsVisitor &&
    !context.readsLanguage;
  context.reasons.push(
    reason(rule, 'redirected', {
      code: 'redirected',
      values: {
        source: rule.source,
        location,
        isPermanent: permanent,
        isDemoted: rule.kind === 'permanent' && !permanent,
        wait: wait?.seconds ?? null,
        note: rule.note === '' ? null : rule.note,
      },
    }),
  );
  const outcome = isAway ? 'away' : 'redirect';
  if (wait !== null) return { ...waiting(outcome, location, wait), forSome };
  return {
    outcome,
    status: statusOf(permanent, context.request.method),
    location,
    permanent,
    forSome,
    keepFor: rule.keepFor ?? undefined,
    until: endOf(context, match) ?? undefined,
  };
}

/**
 * When a redirect stops to apply: at its end, when the page of `unless-page` opens, or when the page ends that a
 * canonical rewrite leads back to; null where it has no end.
 */
function endOf(context: DecisionContext, { rule, groups }: Match<Redirect>): number | null {
  const opens = rule.unlessPage ? (findPage(context)?.page.validFrom ?? null) : null;
  const back = rule.inverseOf === null ? null : servedFrom(context, rule, groups);
  const ends = [
    rule.validUntil,
    opens !== null && opens > context.at ? opens : null,
    back && (look(context, back)?.page.validUntil ?? null),
  ].filter((one) => one !== null);
  return ends.length === 0 ? null : Math.min(...ends);
}

/** A page that leads on by itself; whoever is sent on with a body, by another method, is so at once. */
function waiting(outcome: Ending['outcome'], target: string, { seconds, say }: Wait): Ending {
  const to = encodeLocation(target);
  return {
    outcome,
    status: 200,
    location: to,
    content: { is: 'wait', text: say, seconds, to },
    headers: { Refresh: `${seconds}; url=${to}`, 'X-Robots-Tag': 'noindex' },
  };
}

/** A target on this site in its one form at once: the tidying would cost another hop. */
function tidied(context: DecisionContext, target: string): string {
  const { prepared } = context;
  if (!target.startsWith('/') || isTidy(prepared, target)) return target;
  const rest = target.slice(target.search(/[?#]|$/));
  const read = siteAddress(prepared, target);
  return read.ok ? pathInOneHop(context, read.address) + rest : target;
}

/**
 * Returns the path to which a redirect to an address leads at once. An alias with a redirect of its own is left to that
 * redirect, so that the result does not depend on the way there. A redirect that applies later counts, too: browsers
 * may cache the path.
 */
export function pathInOneHop(context: DecisionContext, address: Address): string {
  const { readsVisitor } = context;
  const primary = visiblePrimary(context, address);
  if (primary === undefined) return tidyPath(context, address, primary);
  // With a redirect of its own, it makes no difference whether the page of the alias is hidden.
  const hidingReads = context.readsVisitor;
  context.readsVisitor = readsVisitor;
  if (redirectsAlias(context, address))
    return withFinalSlash(address.path, address.requestedPath, context.prepared.site.tidy);
  context.readsVisitor ||= hidingReads;
  return tidyPath(context, address, primary);
}

function redirectsAlias(context: DecisionContext, { path, query }: Address): boolean {
  const read = siteAddress(context.prepared, query === '' ? path : `${path}?${query}`);
  if (!read.ok || read.address.redirects.length === 0) return false;
  const there = { ...context, address: read.address, found: undefined, served: null, reasons: [] };
  const applies = read.address.redirects.some(({ rule, groups }) => {
    const fromQuery = matchQuery(rule.queryConstraints, query);
    if (fromQuery === null) return false;
    const skipped = skipReasonFor(there, { rule, groups: { ...groups, ...fromQuery } });
    return skipped === null || skipped.code === 'not-yet';
  });
  context.readsVisitor ||= there.readsVisitor;
  context.readsLanguage ||= there.readsLanguage;
  return applies;
}

/** Most targets are plain and tidy: a look at their characters tells. */
const isTidy = ({ primary, site: { tidy } }: PreparedSite, target: string): boolean =>
  tidy.finalSlash !== 'add' && isSimple(tidy) && isNormalized(target) && !primary.has(target);

/** GET and HEAD are redirected with 301 and 302, other methods with 308 and 307, which keep the method. */
function statusOf(permanent: boolean, method: string): number {
  if (isView(method)) return permanent ? 301 : 302;
  return permanent ? 308 : 307;
}

const reason = (rule: Redirect, verdict: Reason['verdict'], told: Told): Reason =>
  tell(
    'redirect',
    rule.inverseOf === null ? `redirect ${rule.source}` : `rewrite ${rule.inverseOf.source}`,
    verdict,
    told,
    rule.place,
  );
