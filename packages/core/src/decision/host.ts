import type { DecisionContext, Ending } from './decision.ts';
import type { Reason } from './reason.ts';
import { redirectAt } from './redirect.ts';
import { pathInOneHop } from './tidy.ts';

const HOME: Reason = {
  stage: 'host',
  rule: null,
  verdict: 'passed',
  text: 'This is the primary host.',
  place: null,
};

/** Sends the site's other hosts to the primary one; an unknown host is not this site's to answer for. */
export function hostStage(context: DecisionContext): Ending | null {
  const { site, hosts } = context.prepared;
  const { host, query } = context.address;
  if (host === site.host) {
    context.reasons.push(HOME);
    return null;
  }
  if (site.also.includes(host)) {
    const ending = redirectAt(context);
    if (ending !== null) return ending;
    const text = `${host} is another name of this site; its primary host is ${site.host}.`;
    context.reasons.push({
      stage: 'host',
      rule: 'site also',
      verdict: 'redirected',
      text,
      place: null,
    });
    const location = `${site.protocol}//${site.host}${pathInOneHop(context.prepared, context.address)}${query === '' ? '' : `?${query}`}`;
    return { outcome: 'redirect', status: 308, location, permanent: true };
  }
  const isKnown = hosts.has(host);
  const text = isKnown ? `Some redirects are for ${host}.` : `${host} is not a host of this site.`;
  context.reasons.push({
    stage: 'host',
    rule: null,
    verdict: isKnown ? 'passed' : 'invalid',
    text,
    place: null,
  });
  return isKnown ? null : { outcome: 'invalid', status: 421 };
}
