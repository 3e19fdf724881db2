import { siteAddress } from '../decision/site-address.ts';
import { ALL, NONE } from '../explore/visitor-sets.ts';
import { normalizePath } from '../address/tidy.ts';
import { scopeTest } from '../everywhere/scopes.ts';
import { addressOf } from '../everywhere/starts.ts';
import type { Menu, Scope } from '../model/site.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import { literalPattern } from '../pattern/parse.ts';
import type { InspectionContext } from './finding-draft.ts';

/** Returns the addresses of the pages on which a menu stands. */
export function addressesOfMenu(inspected: InspectionContext, menu: Menu): string[] {
  const { prepared, starts, familiesOf, reportLimit } = inspected;
  const { pages, tidy } = prepared.site;
  if (menu.on.length === 0)
    return pages.flatMap((page) => familiesOf(page).map(({ example }) => example));
  const scopes = scopesOf(inspected, menu);
  try {
    // An alias redirects to its page, which may stand elsewhere.
    const isAlias = (path: string): boolean => prepared.primary.has(normalizePath(path, tidy));
    return starts
      .ofPages(scopes)
      .map(addressOf)
      .filter((address) => !isAlias(address));
  } catch (error) {
    if (!(error instanceof TooManyCases)) throw error;
    reportLimit();
    const isIn = scopeTest(scopes, tidy);
    return pages.map(({ example }) => example).filter((one) => isIn(normalizePath(one, tidy)));
  }
}

function scopesOf({ prepared }: InspectionContext, { on }: Menu): Scope[] {
  const { tidy } = prepared.site;
  const ignoreCase = tidy.case === 'lower';
  return on.map((section) => ({
    pattern: literalPattern(normalizePath(section, tidy), { ignoreCase }),
    under: true,
  }));
}

/** Returns the visitors who reach a page on which a menu stands. */
export function visitorsOfMenu(inspected: InspectionContext, menu: Menu): number {
  const { prepared, explorer } = inspected;
  if (menu.on.length === 0) return ALL;
  const addresses = addressesOfMenu(inspected, menu);
  // The website may have pages there that are not declared.
  if (addresses.length === 0) return prepared.site.undeclared === 'website' ? ALL : NONE;
  const isIn = scopeTest(scopesOf(inspected, menu), prepared.site.tidy);
  const standsAt = (address: string): boolean => {
    const read = siteAddress(prepared, address);
    return read.ok && read.address.isHome && isIn(read.address.path);
  };
  return explorer.atoms.sets.anyOf(
    addresses.map((address) =>
      explorer.visitorsOf(
        explorer.partsOf(address),
        ({ end }) => end.outcome === 'reach' && standsAt(end.final),
      ),
    ),
  );
}
