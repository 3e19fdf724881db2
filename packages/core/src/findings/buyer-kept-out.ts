import { gateChainAt } from '../decision/gates.ts';
import { buyerOf, productsIn } from '../decision/offer.ts';
import { siteAddress } from '../decision/site-address.ts';
import { NONE } from '../explore/visitor-sets.ts';
import { decodeGroups } from '../pattern/fill.ts';
import { GUEST } from '../model/visitor.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** As many pages as are named. */
const MOST_NAMED = 5;

/**
 * The nearest gate at a page admits buyers of a product, and a visitor who has bought nothing else is kept out: by a
 * gate above that it narrows, or by a condition of the page.
 */
export function buyerKeptOut(inspected: InspectionContext): FindingDraft[] {
  const { prepared, explorer, at, familiesOf } = inspected;
  const { site, names } = prepared;
  const found = new Map<string, { product: string; gate: string; pages: string[] }>();
  const asking = new Map(site.gates.map((gate) => [gate, productsIn(gate.admit, names)]));
  for (const page of site.pages) {
    const seen = new Set<string>();
    for (const family of familiesOf(page)) {
      const read = siteAddress(prepared, family.example);
      if (!read.ok) continue;
      const { address } = read;
      const chain = gateChainAt({ at, prepared }, address.gates('view')).effectiveGates;
      const [nearest, ...above] = chain;
      if (!nearest) continue;
      // The visitors whom the only gate admits are kept out by nothing else.
      const isAlone =
        above.length === 0 && address.rewrites.length === 0 && address.redirects.length === 0;
      if (isAlone && page.leadsTo === null) continue;
      const products = asking.get(nearest.rule) ?? [];
      if (products.length === 0) continue;
      const own = explorer.within(family);
      const { atoms } = own;
      const parts = own.partsOf(family.example);
      const path = decodeGroups(nearest.groups);
      const admitted = atoms.setOf(nearest.rule.admit, { path, query: '' });
      for (const product of products) {
        const buyer = buyerOf({ ...GUEST, guest: false, id: 'someone' }, [product]);
        const isKeptOut = parts.some(
          ({ visitors, end: { outcome } }) =>
            (outcome === 'block' || outcome === 'sign-in') &&
            atoms.knowing(atoms.sets.and(visitors, admitted), buyer, at) !== NONE,
        );
        const key = JSON.stringify([product, nearest.rule.name]);
        if (!isKeptOut || seen.has(key)) continue;
        seen.add(key);
        const one = found.get(key) ?? { product, gate: nearest.rule.name, pages: [] };
        one.pages.push(family.example);
        found.set(key, one);
      }
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
