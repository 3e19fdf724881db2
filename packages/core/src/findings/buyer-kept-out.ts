import { gateChainAt } from '../decision/gates.ts';
import { buyerOf, productsIn } from '../decision/offer.ts';
import { siteAddress } from '../decision/site-address.ts';
import { evaluate } from '../condition/evaluate.ts';
import { decodeGroups } from '../pattern/fill.ts';
import { GUEST } from '../model/visitor.ts';
import { followRedirects } from '../visit/visit.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** As many pages as are named. */
const MOST_NAMED = 5;

/**
 * A gate admits the buyers of a product, and who has bought nothing else is kept out of a page behind it: by a gate
 * above that it narrows, or by what the page itself asks.
 */
export function buyerKeptOut({ prepared, at }: InspectionContext): FindingDraft[] {
  const { site, names } = prepared;
  const found = new Map<string, { product: string; gate: string; pages: string[] }>();
  const asking = new Map(site.gates.map((gate) => [gate, productsIn(gate.admit, names)]));
  for (const { example } of site.pages) {
    const read = siteAddress(prepared, example);
    if (!read.ok) continue;
    const { address } = read;
    const [nearest, ...above] = gateChainAt({ at, prepared }, address.gates('view')).effectiveGates;
    if (!nearest) continue;
    // Whom the only gate admits is kept out by nothing else.
    if (above.length === 0 && address.rewrites.length === 0 && address.redirects.length === 0)
      continue;
    for (const product of asking.get(nearest.rule) ?? []) {
      const buyer = buyerOf({ ...GUEST, guest: false, id: 'someone' }, [product]);
      const situation = { visitor: buyer, at, path: decodeGroups(nearest.groups), query: '' };
      if (!evaluate(nearest.rule.admit, situation, names)) continue;
      const request = { method: 'GET', address: example };
      const { outcome } = followRedirects(prepared, request, buyer, at);
      if (outcome !== 'block' && outcome !== 'sign-in') continue;
      const key = JSON.stringify([product, nearest.rule.name]);
      const one = found.get(key) ?? { product, gate: nearest.rule.name, pages: [] };
      one.pages.push(example);
      found.set(key, one);
    }
  }
  return [...found.values()].map(({ product, gate, pages }) => ({
    code: 'buyer-kept-out',
    severity: 'high',
    subject: { kind: 'gate', name: gate },
    place: site.gates.find(({ name }) => name === gate)!.place,
    values: {
      gate,
      product: site.products[product]?.title ?? product,
      pages: pages.slice(0, MOST_NAMED),
      others: Math.max(0, pages.length - MOST_NAMED),
    },
  }));
}
