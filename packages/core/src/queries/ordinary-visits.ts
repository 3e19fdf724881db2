import { countedIn } from '../condition/product-terms.ts';
import type { Request } from '../decision/decision.ts';
import { gateChainAt } from '../decision/gates.ts';
import { buyerOf, productsIn } from '../decision/offer.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { siteAddress } from '../decision/site-address.ts';
import { GUEST, type Visitor } from '../model/visitor.ts';
import { followRedirects, type Outcome, type Visit } from '../visit/visit.ts';

/** What someone ordinary meets where a visitor was let in by full access. */
export interface OrdinaryVisit {
  /** Who that is, in words. */
  readonly who: string;
  /** The same as a site file declares a visitor. */
  readonly visitor: { readonly guest?: true; readonly bought?: readonly { product: string }[] };
  readonly outcome: Outcome;
  readonly status: number;
  readonly final: string;
}

/** As many products as are named; a page that more of them open has others to read about it. */
const MOST_PRODUCTS = 6;

/**
 * The same visit by a guest, by someone signed in, and by the buyers of what the gates on the way ask for: whoever tries
 * a site with full access sees what nobody else does. Empty where full access made no difference.
 */
export function ordinaryVisits(
  prepared: PreparedSite,
  { fullAccess, hops, method, at }: Pick<Visit, 'fullAccess' | 'hops' | 'method' | 'at'>,
): OrdinaryVisit[] {
  if (!fullAccess) return [];
  const moment = Date.parse(at);
  const products = [
    ...new Set(hops.flatMap(({ address }) => productsAskedAt(prepared, address, moment))),
  ].slice(0, MOST_PRODUCTS);
  const ordinary: PreparedSite = { ...prepared, site: { ...prepared.site, fullAccess: null } };
  const request: Request = { method, address: hops[0]!.address };
  const someone: Visitor = { ...GUEST, guest: false, id: 'someone', name: 'someone' };
  const visits: [who: string, declared: OrdinaryVisit['visitor'], visitor: Visitor][] = [
    ['a guest', { guest: true }, GUEST],
    ['someone signed in', {}, someone],
    ...products.map((product): [string, OrdinaryVisit['visitor'], Visitor] => [
      `a buyer of ${prepared.site.products[product]?.title ?? product}`,
      { bought: [{ product }] },
      buyerOf(someone, [product]),
    ]),
  ];
  return visits.map(([who, declared, visitor]) => {
    const { outcome, status, final } = followRedirects(ordinary, request, visitor, moment);
    return { who, visitor: declared, outcome, status, final };
  });
}

/** The products that the gates at an address ask for, and the bundles that they are part of. */
function productsAskedAt(prepared: PreparedSite, address: string, at: number): string[] {
  const read = siteAddress(prepared, address);
  if (!read.ok) return [];
  return (['view', 'change'] as const).flatMap((right) =>
    gateChainAt({ at, prepared }, read.address.gates(right)).effectiveGates.flatMap(({ rule }) =>
      productsIn(rule.admit, prepared.names).flatMap((one) =>
        countedIn(one, prepared.names.products),
      ),
    ),
  );
}
