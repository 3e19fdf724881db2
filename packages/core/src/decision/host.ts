import type { Deciding, Ending } from './decision.ts';
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
export function hostStage(on: Deciding): Ending | null {
  const { site, hosts } = on.prepared;
  const { host, query } = on.address;
  if (host === site.host) {
    on.reasons.push(HOME);
    return null;
  }
  if (site.also.includes(host)) {
    const ending = redirectAt(on);
    if (ending !== null) return ending;
    const text = `${host} is another name of this site; its primary host is ${site.host}.`;
    on.reasons.push({ stage: 'host', rule: 'site also', verdict: 'redirected', text, place: null });
    const location = `${site.protocol}//${site.host}${pathInOneHop(on.prepared, on.address)}${query === '' ? '' : `?${query}`}`;
    return { outcome: 'redirect', status: 308, location, permanent: true };
  }
  const isKnown = hosts.has(host);
  const text = isKnown ? `Some redirects are for ${host}.` : `${host} is not a host of this site.`;
  on.reasons.push({
    stage: 'host',
    rule: null,
    verdict: isKnown ? 'passed' : 'invalid',
    text,
    place: null,
  });
  return isKnown ? null : { outcome: 'invalid', status: 421 };
}
