import { evaluate } from '../condition/evaluate.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import type { Visitor } from '../site/visitor.ts';
import { visit, type Outcome } from '../visit/visit.ts';

/** Which parts of a page, and which of some links, a visitor should see. */
export interface Shown {
  readonly visitor: string;
  readonly parts: readonly { readonly name: string; readonly shown: boolean }[];
  readonly links: readonly ShownLink[];
  readonly menus: readonly { readonly name: string; readonly links: readonly ShownLink[] }[];
}

export interface ShownLink {
  readonly address: string;
  readonly shown: boolean;
  /** How a visit to it would end; a link that leads to a refusal, a sign-in or nothing is not shown. */
  readonly outcome: Outcome;
}

/**
 * Decides what of a page to show: parts by their own rule, links by what a visit to them comes to. A
 * menu that shows everything shows links that lead nowhere too.
 */
export function shownTo(
  prepared: PreparedSite,
  visitor: Visitor,
  links: readonly string[],
  at: number,
): Shown {
  const { site, names } = prepared;
  const linkShown = (address: string): ShownLink => {
    const { outcome } = visit(prepared, { method: 'GET', address }, visitor, at);
    return { address, shown: outcome === 'reach' || outcome === 'away', outcome };
  };
  const situation = { visitor, at, path: {}, query: '' };
  return {
    visitor: visitor.name,
    parts: site.parts.map(({ name, admit }) => ({
      name,
      shown: evaluate(admit, situation, names),
    })),
    links: links.map(linkShown),
    menus: site.menus.map(({ name, links: all, onlyUsable }) => ({
      name,
      links: all.map(linkShown).map((link) => (onlyUsable ? link : { ...link, shown: true })),
    })),
  };
}
