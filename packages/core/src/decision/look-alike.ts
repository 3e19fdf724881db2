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
  const isFolded = path !== address.path;
  if (!isFolded && !mayFold(prepared)) return null;
  const folded = prepared.folded();
  if (!isFolded && !folded.isOther) return null;
  const gates = RIGHTS.flatMap((right) => rulesIn(lookUp(folded.gates[right], path)));
  const own = RIGHTS.flatMap((right) => rulesIn(address.gates(right)));
  const [other] = lookUp(folded.pages, path);
  const isSamePage = (other?.rule.page ?? null) === (page?.rule.page ?? null);
  return isSamePage && isSame(gates, own) ? null : gates;
}

const known = new WeakMap<PreparedSite, boolean>();

/** Whether some page or gate has letters beyond ASCII: only then can an address in ASCII look like it. */
function mayFold(prepared: PreparedSite): boolean {
  let answer = known.get(prepared);
  if (answer === undefined) {
    const { pages, gates } = prepared.site;
    const patterns = [
      ...pages.map(({ pattern }) => pattern),
      ...gates.flatMap(({ scopes }) => scopes.map(({ pattern }) => pattern)),
    ];
    answer = patterns.some(({ parts }) =>
      parts.some((part) =>
        /%[89A-F]/.test(part.is === 'text' ? part.value : part.prefix + part.suffix),
      ),
    );
    known.set(prepared, answer);
  }
  return answer;
}

const rulesIn = (matches: readonly Match<Gate>[]): Gate[] => matches.map(({ rule }) => rule);

const isSame = (one: readonly Gate[], other: readonly Gate[]): boolean =>
  one.length === other.length && one.every((gate, i) => gate === other[i]);
