import type { DecisionContext, Ending } from './decision.ts';
import type { Reason } from '../model/reason.ts';
import { pathInOneHop, redirectAt } from './redirect.ts';

const HOME: Reason = {
  stage: 'host',
  rule: null,
  verdict: 'passed',
  code: 'primary-host',
  values: {},
  place: null,
};

/** Sends the site's other hosts to the primary one; an unknown host is not this site's to answer for. */
export function hostStage(context: DecisionContext): Ending | null {
  const { site, hosts } = context.prepared;
  const { host, query, isHome } = context.address;
  if (isHome) {
    context.reasons.push(HOME);
    return null;
  }
  if (site.also.includes(host)) {
    const ending = redirectAt(context);
    if (ending !== null) return ending;
    context.reasons.push({
      stage: 'host',
      rule: 'site also',
      verdict: 'redirected',
      code: 'other-host',
      values: { host, primary: site.host },
      place: null,
    });
    const location = `${site.protocol}//${site.host}${pathInOneHop(context, context.address)}${query === '' ? '' : `?${query}`}`;
    return { outcome: 'redirect', status: 308, location, permanent: true };
  }
  const isKnown = hosts.has(host);
  context.reasons.push({
    stage: 'host',
    rule: null,
    verdict: isKnown ? 'passed' : 'invalid',
    code: isKnown ? 'host-of-redirects' : 'unknown-host',
    values: { host },
    place: null,
  });
  return isKnown ? null : { outcome: 'invalid', status: 421 };
}
