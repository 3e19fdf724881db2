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

/** The pages that can be close to an address, as they are compared; and the searches for the last addresses. */
interface Candidates {
  readonly all: readonly Candidate[];
  readonly searches: Map<string, Search>;
}

interface Candidate {
  readonly page: Page;
  readonly whole: Spelling;
  /** The last step of its path. */
  readonly last: Spelling;
}

/** A text, and a bit for each letter that stands in it. */
interface Spelling {
  readonly text: string;
  readonly letters: number;
}

/** How far the pages close to one address have been looked for. */
interface Search {
  readonly found: Page[];
  /** How many of `LEVELS` were looked at. */
  level: number;
}

/** How far is looked at a time: what is near costs little to find, and is most often all that is wanted. */
const LEVELS = [0.1, ELSEWHERE, 0.3, FARTHEST];

// The same addresses are asked for again and again, while somebody looks at what was not found.
const candidatesOf = new WeakMap<PreparedSite, Candidates>();
const MOST_SEARCHES = 5000;

/** The pages closest to an address, the nearest first, whoever may see them. */
function* nearestPages(prepared: PreparedSite, address: string): Generator<Page> {
  const { all, searches } = candidatesIn(prepared);
  let search = searches.get(address);
  if (!search) {
    if (searches.size >= MOST_SEARCHES) searches.delete(searches.keys().next().value!);
    searches.set(address, (search = { found: [], level: 0 }));
  }
  const whole = spellingOf(address);
  const last = lastStep(address);
  for (let i = 0; ; i++) {
    while (i >= search.found.length) {
      if (search.level === LEVELS.length) return;
      const beyond = LEVELS[search.level - 1] ?? -1;
      search.found.push(...nearest(all, whole, last, beyond, LEVELS[search.level]!));
      search.level++;
    }
    yield search.found[i]!;
  }
}

function candidatesIn(prepared: PreparedSite): Candidates {
  let candidates = candidatesOf.get(prepared);
  if (!candidates) {
    const all = prepared.site.pages
      .filter(({ pattern, listed }) => listed && literalOf(pattern) !== null)
      .map((page): Candidate => {
        const text = page.example.toLowerCase();
        return { page, whole: spellingOf(text), last: lastStep(text) };
      });
    candidatesOf.set(prepared, (candidates = { all, searches: new Map() }));
  }
  return candidates;
}

/** The pages that are farther away than `beyond` and at most as far as `most`, the nearest first. */
function nearest(
  all: readonly Candidate[],
  whole: Spelling,
  last: Spelling,
  beyond: number,
  most: number,
): Page[] {
  const near: { page: Page; unlike: number }[] = [];
  for (const one of all) {
    const here = unlikeness(whole, one.whole, most);
    const elsewhere = ELSEWHERE + unlikeness(last, one.last, most - ELSEWHERE);
    const unlike = here < elsewhere ? here : elsewhere;
    if (unlike > beyond && unlike <= most) near.push({ page: one.page, unlike });
  }
  near.sort((a, b) => a.unlike - b.unlike || (a.page.address < b.page.address ? -1 : 1));
  return near.map(({ page }) => page);
}

/** The title of the page that has an address for itself, whether it is open now or not; null where none has. */
export function pageTitleAt(prepared: PreparedSite, address: string): string | null {
  const read = readAddress(address, prepared.site, prepared.site.tidy);
  const page = read.ok ? rulesAt(prepared.pages, read.address.path)[0]?.page : undefined;
  return page && literalOf(page.pattern) !== null ? page.title : null;
}

const spellingOf = (text: string): Spelling => ({ text, letters: lettersIn(text) });

const lastStep = (path: string): Spelling => spellingOf(path.slice(path.lastIndexOf('/') + 1));

/** A bit for each letter that stands in a text. */
function lettersIn(text: string): number {
  let letters = 0;
  for (let i = 0; i < text.length; i++) letters |= 1 << (text.charCodeAt(i) & 31);
  return letters;
}

/** How unlike two texts are, from 0 to 1; 1 where that is more than `most`. */
function unlikeness(a: Spelling, b: Spelling, most: number): number {
  const longer = a.text.length - b.text.length;
  const longest = longer > 0 ? a.text.length : b.text.length;
  if (longest === 0 || most < -1e-9) return 1;
  // A little more, for what is lost where 0.3 times 10 is less than 3.
  const limit = ~~(most * longest + 1e-9);
  // Lengths and letters alone rule most out, and cost nothing to compare.
  if (longer > limit || -longer > limit) return 1;
  if (bits(a.letters & ~b.letters) > limit || bits(b.letters & ~a.letters) > limit) return 1;
  const distance = editDistance(a.text, b.text, limit);
  return distance > limit ? 1 : distance / longest;
}

function bits(word: number): number {
  let count = 0;
  for (let rest = word; rest !== 0; rest &= rest - 1) count++;
  return count;
}
