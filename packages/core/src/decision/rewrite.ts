import { withSingleSlashes } from '../address/segments.ts';
import { normalizePath } from '../address/tidy.ts';
import { lookUp, type Match } from '../pattern/pattern-index.ts';
import { withoutFields } from '../pattern/query.ts';
import { fillTarget, splitQuery } from '../pattern/target.ts';
import { exampleOf } from '../pattern/example.ts';
import type { Rewrite } from '../model/site.ts';
import type { DecisionContext, Ending, Served } from './decision.ts';
import { visiblePage } from './concealment.ts';
import { isEncrypted, toHttps } from './https.ts';
import { namedRewrite, rewriteSkipReason } from './skip-reason.ts';
import { tell } from './tell.ts';
import type { PreparedSite } from './prepared-site.ts';
import { siteAddress, type SiteAddress } from './site-address.ts';
import type { Reason, Told } from '../model/reason.ts';
import type { Target } from '../model/target.ts';

const NONE: Reason = {
  stage: 'rewrite',
  rule: null,
  verdict: 'passed',
  code: 'no-rewrite',
  values: {},
  place: null,
};

/** Applies one rewrite, never a second; from here both the asked and the served address count. */
export function rewriteStage(context: DecisionContext): Ending | null {
  const matches = context.address.rewrites;
  if (matches.length === 0) {
    context.reasons.push(NONE);
    return null;
  }
  for (const [position, match] of matches.entries()) {
    const { rule } = match;
    const skipped = rewriteSkipReason(context, match);
    if (skipped !== null) {
      context.reasons.push(reason(rule, 'skipped', skipped));
      continue;
    }
    const served = serve(context, match);
    if (served === null) {
      context.reasons.push(
        reason(rule, 'invalid', { code: 'no-address-to-serve', values: { source: rule.source } }),
      );
      return { outcome: 'invalid', status: 400 };
    }
    context.served = served;
    context.reasons.push(
      reason(rule, 'rewritten', {
        code: 'rewritten',
        values: { source: rule.source, location: served.location },
      }),
      ...matches.slice(position + 1).map((other) =>
        reason(other.rule, 'skipped', {
          code: 'less-specific',
          values: namedRewrite(other.rule),
        }),
      ),
    );
    return secured(context, served);
  }
  return null;
}

/** A page that is only to be had over HTTPS is so from wherever it is served. */
function secured(context: DecisionContext, { address }: Served): Ending | null {
  if (address === null || isEncrypted(context)) return null;
  const page = visiblePage(context, address)?.rule.page;
  return page?.https ? toHttps(context, page) : null;
}

/** What is asked of the server instead; null where the filled address is ambiguous. */
function serve(context: DecisionContext, { rule, groups }: Match<Rewrite>): Served | null {
  const filled = fillTarget(rule.serve, groups, keptQuery(rule.serve, context.address.query));
  const read = siteAddress(context.prepared, filled);
  if (!read.ok) return null;
  const { address } = read;
  // Printed from what was read, so that the server is asked for the very address that was judged.
  const path = withSingleSlashes(address.requestedPath);
  const location = address.query === '' ? path : `${path}?${address.query}`;
  return rule.serve.origin === null
    ? { rewrite: rule, location, address }
    : { rewrite: rule, location: rule.serve.origin + location, address: null };
}

/** The address that an example of a rewrite is served from; null on another server. */
export function servedExample(prepared: PreparedSite, rewrite: Rewrite): SiteAddress | null {
  const path = normalizePath(exampleOf(rewrite.pattern, null), prepared.site.tidy);
  const match = lookUp(prepared.rewrites, path).find(({ rule }) => rule === rewrite);
  if (!match || rewrite.serve.origin !== null) return null;
  const read = siteAddress(prepared, fillTarget(rewrite.serve, match.groups, ''));
  return read.ok ? read.address : null;
}

/** The query as asked for, without the fields that the rewrite sets: nobody else may give them. */
function keptQuery({ text }: Target, query: string): string {
  const own = splitQuery(text)[1];
  return query === '' || own === null
    ? query
    : withoutFields(new URLSearchParams(own).keys(), query);
}

const reason = (rule: Rewrite, verdict: Reason['verdict'], told: Told): Reason =>
  tell('rewrite', `rewrite ${rule.source}`, verdict, told, rule.place);
