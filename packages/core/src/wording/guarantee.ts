import type { Demand, Guarantee } from '../model/guarantee.ts';
import { inWords } from '../text/list.ts';
import { printDay } from '../time/instant.ts';
import { printScope } from './reason.ts';

/** What it is called that a visit ends so, of those who must always or never do it. */
const VERBS: Readonly<Record<Demand, string>> = {
  reach: 'reach',
  change: 'change',
  'sign-in': 'be asked to sign in at',
  block: 'be turned away from',
  missing: 'find nothing at',
  away: 'be taken to another website from',
  loop: 'go in circles at',
  invalid: 'be refused for the address of',
  permanent: 'be redirected permanently from',
};

/**
 * A guarantee as a sentence: “guests must never reach /crew and all beneath it”.
 *
 * @param who whom it is about, in words
 */
export function describeGuarantee(guarantee: Guarantee, who: string, timeZone: string): string {
  const { is, demands, scopes, old, links, hops, validFrom, validUntil } = guarantee;
  const what = inWords(
    demands.map((one) => VERBS[one]),
    'or',
  );
  const where = old
    ? `${old.host === null ? '' : `https://${old.host}`}${old.pattern.text}`
    : links
      ? 'the targets of menus, landings and redirects'
      : scopes.length > 0
        ? inWords(scopes.map(printScope), is === 'never' ? 'or' : 'and')
        : 'any page';
  const most = hops === null ? '' : `, ${hops === 1 ? 'once' : `${hops} times`} at most`;
  const from = validFrom === null ? '' : `, from ${printDay(validFrom, timeZone)}`;
  const until = validUntil === null ? '' : `, until ${printDay(validUntil, timeZone)}`;
  return `${who} must ${is} ${what} ${where}${most}${from}${until}`;
}
