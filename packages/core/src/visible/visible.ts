import { evaluate } from '../condition/evaluate.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import type { Visitor } from '../model/visitor.ts';
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

/** What of a page a visitor should see, asked one by one. */
export interface Sees {
  /** A part that the site file does not know is for nobody: a name that is misspelt must not let anyone in. */
  part(name: string): boolean;
  link(address: string): ShownLink;
}

/** Decides what of a page to show: parts by their own rule, links by what a visit to them comes to. */
export function seesOf(prepared: PreparedSite, visitor: Visitor, at: number): Sees {
  const { site, names } = prepared;
  const situation = { visitor, at, path: {}, query: '' };
  return {
    part: (name) => {
      const part = site.parts.find((one) => one.name === name);
      return part !== undefined && evaluate(part.admit, situation, names);
    },
    link: (address) => {
      const { outcome } = visit(prepared, { method: 'GET', address }, visitor, at);
      return { address, shown: outcome === 'reach' || outcome === 'away', outcome };
    },
  };
}

/** What a visitor should see of all parts and menus. A menu that shows everything shows links that lead nowhere too. */
export function shownTo(
  prepared: PreparedSite,
  visitor: Visitor,
  links: readonly string[],
  at: number,
): Shown {
  const { site } = prepared;
  const sees = seesOf(prepared, visitor, at);
  return {
    visitor: visitor.name,
    parts: site.parts.map(({ name }) => ({ name, shown: sees.part(name) })),
    links: links.map(sees.link),
    menus: site.menus.map(({ name, links: all, onlyUsable }) => ({
      name,
      links: all.map(sees.link).map((link) => (onlyUsable ? link : { ...link, shown: true })),
    })),
  };
}
