import { readAddress } from '../address/address.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { decodePathText } from '../address/canonical-path.ts';
import { rulesAt } from '../pattern/pattern-index.ts';
import { literalOf } from '../model/pattern.ts';
import { editDistance } from '../text/nearest.ts';
import type { Page } from '../model/site.ts';
import type { Visitor } from '../model/visitor.ts';
import { followRedirects } from '../visit/visit.ts';

/** A page that may have been meant. */
export interface SuggestedPage {
  readonly address: string;
  readonly title: string;
}

const MOST = 5;
/** How unlike an address may be, from 0 (the same) to 1 (nothing in common). */
const FARTHEST = 0.4;
/** The same last step in another section counts as this unlike. */
const ELSEWHERE = 0.2;

/**
 * The pages closest to an address at which nothing is: by spelling, or by the last step in another
 * section. Only those that this visitor reaches are told, and none that is kept from search engines:
 * a suggestion must not give away what a gate hides.
 *
 * @param at the moment, in milliseconds since 1970
 */
export function suggestPages(
  prepared: PreparedSite,
  address: string,
  visitor: Visitor,
  at: number,
): SuggestedPage[] {
  const read = readAddress(address, prepared.site, prepared.site.tidy);
  if (!read.ok) return [];
  const close: SuggestedPage[] = [];
  for (const page of nearestPages(prepared, decodePathText(read.address.path).toLowerCase())) {
    const request = { method: 'GET', address: page.example };
    if (followRedirects(prepared, request, visitor, at).outcome !== 'reach') continue;
    close.push({ address: page.address, title: page.title });
    if (close.length === MOST) break;
  }
  return close;
}

/** The pages that can be suggested, prepared for comparison. */
interface Candidates {
  readonly pages: readonly Page[];
  readonly whole: Spellings;
  /** The last steps of their paths. */
  readonly last: Spellings;
}

const candidatesOf = new WeakMap<PreparedSite, Candidates>();
/** Limits for exact comparison: candidates, and cells of the distance tables. Together a few milliseconds. */
const MOST_COMPARED = 64;
const MOST_CELLS = 500_000;
/** The resolution of the lower bounds between 0 and 1. */
const STEPS = 100;

/** The pages closest to an address, the nearest first, whoever may see them. */
function nearestPages(prepared: PreparedSite, address: string): Page[] {
  const { pages, whole, last } = candidatesIn(prepared);
  const [wanted, wantedLast] = [new Spellings([address]), new Spellings([lastStep(address)])];
  const bounds = new Float64Array(pages.length);
  for (let i = 0; i < pages.length; i++) {
    const here = whole.leastUnlike(i, wanted);
    bounds[i] =
      here <= ELSEWHERE ? here : Math.min(here, ELSEWHERE + last.leastUnlike(i, wantedLast));
  }
  let cells = 0;
  const unlike = (a: string, b: string, most: number): number => {
    const longest = Math.max(a.length, b.length, 1);
    // A little more, for what is lost where 0.3 times 10 is less than 3.
    const limit = Math.floor(most * longest + 1e-9);
    if (limit < 0 || cells > MOST_CELLS) return 1;
    cells += Math.min(a.length, b.length) * (2 * limit + 1);
    const distance = editDistance(a, b, limit);
    return distance > limit ? 1 : distance / longest;
  };
  return lowest(bounds)
    .map((i) => ({
      page: pages[i]!,
      unlike: Math.min(
        unlike(address, whole.texts[i]!, FARTHEST),
        ELSEWHERE + unlike(lastStep(address), last.texts[i]!, FARTHEST - ELSEWHERE),
      ),
    }))
    .filter((one) => one.unlike <= FARTHEST)
    .sort((a, b) => a.unlike - b.unlike || (a.page.address < b.page.address ? -1 : 1))
    .map(({ page }) => page);
}

/** The positions of the lowest bounds, at most `MOST_COMPARED`. */
function lowest(bounds: Float64Array): number[] {
  const counts = new Uint32Array(STEPS + 1);
  for (const bound of bounds) counts[Math.floor(bound * STEPS)]!++;
  let highest = 0;
  for (let all = counts[0]!; all < MOST_COMPARED && highest < FARTHEST * STEPS;)
    all += counts[++highest]!;
  const positions: number[] = [];
  for (let i = 0; i < bounds.length; i++) if (bounds[i]! * STEPS < highest + 1) positions.push(i);
  return positions.sort((i, j) => bounds[i]! - bounds[j]!).slice(0, MOST_COMPARED);
}

function candidatesIn(prepared: PreparedSite): Candidates {
  let candidates = candidatesOf.get(prepared);
  if (!candidates) {
    const pages = prepared.site.pages.filter(
      ({ pattern, listed }) => listed && literalOf(pattern) !== null,
    );
    const texts = pages.map(({ example }) => example.toLowerCase());
    candidates = { pages, whole: new Spellings(texts), last: new Spellings(texts.map(lastStep)) };
    candidatesOf.set(prepared, candidates);
  }
  return candidates;
}

/** The number of letter groups. More groups give better bounds and take longer. */
const LETTERS = 16;

/** Texts with their letter counts, which give a lower bound for the distance between two texts. */
class Spellings {
  private readonly counts: Uint8Array;
  private readonly lengths: Uint16Array;

  constructor(readonly texts: readonly string[]) {
    this.counts = new Uint8Array(texts.length * LETTERS);
    this.lengths = Uint16Array.from(texts, ({ length }) => length);
    texts.forEach((text, i) => {
      for (let at = 0; at < text.length; at++) {
        const letter = i * LETTERS + (text.charCodeAt(at) % LETTERS);
        if (this.counts[letter]! < 255) this.counts[letter]!++;
      }
    });
  }

  /** A lower bound, from 0 to 1, for the difference between one of the texts and another: unshared letters must change. */
  leastUnlike(i: number, other: Spellings): number {
    const { counts } = this;
    const wanted = other.counts;
    const own = this.lengths[i]!;
    const others = other.lengths[0]!;
    const longest = own > others ? own : others;
    const longer = own > others ? own - others : others - own;
    // Lengths alone rule most out.
    if (longer > FARTHEST * longest) return 1;
    let differing = 0;
    for (let letter = 0, at = i * LETTERS; letter < LETTERS; letter++, at++) {
      const more = counts[at]! - wanted[letter]!;
      differing += more > 0 ? more : -more;
    }
    // One substitution removes two unshared letters.
    return longest === 0 ? 0 : (differing + longer) / 2 / longest;
  }
}

const lastStep = (path: string): string => path.slice(path.lastIndexOf('/') + 1);

/** The title of the page that has an address for itself, whether it is open now or not; null where none has. */
export function pageTitleAt(prepared: PreparedSite, address: string): string | null {
  const read = readAddress(address, prepared.site, prepared.site.tidy);
  const page = read.ok ? rulesAt(prepared.pages, read.address.path)[0]?.page : undefined;
  return page && literalOf(page.pattern) !== null ? page.title : null;
}
