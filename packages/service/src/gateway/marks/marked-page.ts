/** How a page marks a block as a part, and a list of links as a menu. */
export const MARK = 'data-kleidon-';
export const PART = `${MARK}part`;
export const MENU = `${MARK}menu`;

/** What of a marked page its visitor sees. */
export interface MarkupVisibility {
  part(name: string): boolean;
  /** Whether a menu shows only the links that its visitor can use. */
  onlyUsable(menu: string): boolean;
  link(href: string): boolean;
}

/**
 * Why a page can't be read with certainty: browsers may see something else in it than the gateway does.
 * The reason is for the log.
 */
export class UnclearPage extends Error {}

/** An element that some visitors don't see, with all that is in it. */
export type Mark = { readonly above: Mark | null } & (
  | { readonly is: 'part'; readonly name: string }
  /** A link in menus. */
  | { readonly is: 'link'; readonly href: string; readonly menus: readonly string[] }
  /** An entry of a menu, which goes with its links where nothing else is in it. */
  | { readonly is: 'entry'; readonly links: readonly Mark[] }
);

/** Bytes that are in marked elements: they go where all of those are hidden. */
export interface MarkedBytes {
  readonly start: number;
  readonly end: number;
  readonly marks: readonly Mark[];
}

/** What in a page is marked, whoever asks for it; in the order of the page. */
export type MarkedPage = readonly MarkedBytes[];

/** A page without what a visitor must not see; every other byte stays. */
export function withoutHidden(page: Buffer, marked: MarkedPage, sees: MarkupVisibility): Buffer {
  const known = new Map<Mark, boolean>();
  const isHidden = (mark: Mark): boolean => {
    let hidden = known.get(mark);
    if (hidden === undefined) {
      hidden = (mark.above !== null && isHidden(mark.above)) || isHiddenItself(mark);
      known.set(mark, hidden);
    }
    return hidden;
  };
  const isHiddenItself = (mark: Mark): boolean => {
    switch (mark.is) {
      case 'part':
        return !sees.part(mark.name);
      case 'link':
        return mark.menus.some(sees.onlyUsable) && !sees.link(mark.href);
      case 'entry':
        return mark.links.length > 0 && mark.links.every((link) => isHiddenWithin(link, mark));
    }
  };
  /** Whether a link is hidden, or something between it and the entry that it is in. */
  const isHiddenWithin = (link: Mark, entry: Mark): boolean => {
    for (let at: Mark | null = link; at !== null && at !== entry; at = at.above)
      if (isHiddenItself(at)) return true;
    return false;
  };
  const pieces: Buffer[] = [];
  let from = 0;
  for (const { start, end, marks } of marked) {
    if (!marks.every(isHidden)) continue;
    if (start > from) pieces.push(page.subarray(from, start));
    from = Math.max(from, end);
  }
  pieces.push(page.subarray(from));
  return Buffer.concat(pieces);
}
