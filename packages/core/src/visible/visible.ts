import { evaluate } from '../condition/evaluate.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import type { Visitor } from '../model/visitor.ts';
import { followRedirects, type Outcome, type VisitEnd } from '../visit/visit.ts';

/** Which parts of a page, and which of some links, a visitor should see. */
export interface Visible {
  readonly visitor: string;
  readonly parts: readonly { readonly name: string; readonly visible: boolean }[];
  readonly links: readonly VisibleLink[];
  readonly menus: readonly { readonly name: string; readonly links: readonly VisibleLink[] }[];
}

export interface VisibleLink {
  readonly address: string;
  readonly visible: boolean;
  /** How a visit would end. A link to a refusal, a sign-in or nothing is not shown, nor one that only full access opens. */
  readonly outcome: Outcome;
}

/** What of a page a visitor should see, asked one by one. */
export interface Visibility {
  /** A part that the site file does not know is for nobody: a name that is misspelt must not let anyone in. */
  part(name: string): boolean;
  link(address: string): VisibleLink;
}

/** Whether a menu of usable links shows a link to a visitor whose visit ends so. */
export const isShownLink = ({ outcome, fullAccess }: VisitEnd): boolean =>
  (outcome === 'reach' || outcome === 'away') && !fullAccess;

/**
 * Decides what of a page to show: parts by their own rule, links by what a visit to them comes to.
 *
 * @param at the moment, in milliseconds since 1970
 */
export function visibilityOf(prepared: PreparedSite, visitor: Visitor, at: number): Visibility {
  const { site, names } = prepared;
  const situation = { visitor, at, path: {}, query: '' };
  return {
    part: (name) => {
      const part = site.parts.find((one) => one.name === name);
      return part !== undefined && evaluate(part.admit, situation, names);
    },
    link: (address) => {
      const end = followRedirects(prepared, { method: 'GET', address }, visitor, at);
      return { address, visible: isShownLink(end), outcome: end.outcome };
    },
  };
}

/**
 * What a visitor should see of all parts and menus. A menu that shows everything shows links that lead nowhere too.
 *
 * @param at the moment, in milliseconds since 1970
 */
export function visibleTo(
  prepared: PreparedSite,
  visitor: Visitor,
  links: readonly string[],
  at: number,
): Visible {
  const { site } = prepared;
  const seen = visibilityOf(prepared, visitor, at);
  return {
    visitor: visitor.name,
    parts: site.parts.map(({ name }) => ({ name, visible: seen.part(name) })),
    links: links.map(seen.link),
    menus: site.menus.map(({ name, links: all, onlyUsable }) => ({
      name,
      links: all.map(seen.link).map((link) => (onlyUsable ? link : { ...link, visible: true })),
    })),
  };
}
