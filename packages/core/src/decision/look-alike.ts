import { foldedPath } from '../address/canonical-path.ts';
import type { Gate } from '../model/site.ts';
import { literalOf } from '../model/pattern.ts';
import { lookUp, type Match } from '../pattern/pattern-index.ts';
import type { PreparedSite } from './prepared-site.ts';
import type { SiteAddress } from './site-address.ts';

const RIGHTS = ['view', 'change'] as const;

/**
 * Returns the gates of the addresses that a server may take an address for, where these have other gates or pages than
 * the address itself: `/le\u00dfons` may be `/lessons`, and `/cr\u00adew` may be `/crew`. Null where nothing differs, and for
 * the address of a declared page, which the site file tells apart.
 */
export function gatesOfLookAlikes(prepared: PreparedSite, address: SiteAddress): Gate[] | null {
  const { tidy } = prepared.site;
  const { page } = address;
  if (page !== null && literalOf(page.rule.page.pattern) !== null) return null;
  const path = foldedPath(address.path, tidy.case === 'lower');
  // An address in ASCII can look like a rule only where that has other letters.
  if (path === address.path && !prepared.mayFold) return null;
  const folded = prepared.folded();
  const gates = RIGHTS.flatMap((right) => rulesIn(lookUp(folded.gates[right], path)));
  const own = RIGHTS.flatMap((right) => rulesIn(address.gates(right)));
  const [other] = lookUp(folded.pages, path);
  const isSamePage = other === undefined || other.rule.page === page?.rule.page;
  return isSamePage && isSame(gates, own) ? null : gates;
}

const rulesIn = (matches: readonly Match<Gate>[]): Gate[] => matches.map(({ rule }) => rule);

const isSame = (one: readonly Gate[], other: readonly Gate[]): boolean =>
  one.length === other.length && one.every((gate, i) => gate === other[i]);
