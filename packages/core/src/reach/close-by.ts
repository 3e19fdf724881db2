import { readAddress } from '../address/address.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { decodePathText } from '../pattern/canonical.ts';
import { lookUp } from '../pattern/index-of-patterns.ts';
import { literalOf } from '../pattern/pattern.ts';
import { editDistance } from '../text/nearest.ts';
import type { Page } from '../site/site.ts';
import type { Visitor } from '../site/visitor.ts';
import { courseOf } from '../visit/visit.ts';

/** A page that may have been meant. */
export interface CloseBy {
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
 */
export function closeBy(
  prepared: PreparedSite,
  address: string,
  visitor: Visitor,
  at: number,
): CloseBy[] {
  const read = readAddress(address, prepared.site, prepared.site.tidy);
  if (!read.ok) return [];
  const close: CloseBy[] = [];
  for (const page of nearestPages(prepared, decodePathText(read.address.path).toLowerCase())) {
    const request = { method: 'GET', address: page.example };
    if (courseOf(prepared, request, visitor, at).outcome !== 'reach') continue;
    close.push({ address: page.address, title: page.title });
    if (close.length === MOST) break;
  }
  return close;
}

/** The pages that can be close to an address, as they are compared; and what was found for the last addresses. */
interface Candidates {
  readonly all: readonly Candidate[];
  readonly known: Map<string, readonly Page[]>;
}

interface Candidate {
  readonly page: Page;
  readonly text: string;
  readonly last: string;
  readonly letters: number;
}

// The same addresses are asked for again and again, while somebody looks at what was not found.
const candidatesOf = new WeakMap<PreparedSite, Candidates>();
const MOST_KNOWN = 5000;

/** The pages closest to an address, the nearest first, whoever may see them. */
function nearestPages(prepared: PreparedSite, asked: string): readonly Page[] {
  let candidates = candidatesOf.get(prepared);
  if (!candidates) {
    const all = prepared.site.pages
      .filter(({ pattern, listed }) => listed && literalOf(pattern) !== null)
      .map((page): Candidate => {
        const text = page.example.toLowerCase();
        return { page, text, last: lastStep(text), letters: lettersIn(text) };
      });
    candidatesOf.set(prepared, (candidates = { all, known: new Map() }));
  }
  const { all, known } = candidates;
  const before = known.get(asked);
  if (before) return before;
  const last = lastStep(asked);
  const letters = lettersIn(asked);
  const found = all
    .map((one) => ({ page: one.page, unlike: unlikeness(asked, last, letters, one) }))
    .filter(({ unlike }) => unlike <= FARTHEST)
    .sort((a, b) => a.unlike - b.unlike || (a.page.address < b.page.address ? -1 : 1))
    .map(({ page }) => page);
  if (known.size >= MOST_KNOWN) known.delete(known.keys().next().value!);
  known.set(asked, found);
  return found;
}

/** The title of the page that has an address for itself, whether it is open now or not; null where none has. */
export function pageTitleAt(prepared: PreparedSite, address: string): string | null {
  const read = readAddress(address, prepared.site, prepared.site.tidy);
  const page = read.ok ? lookUp(prepared.pages, read.address.path)[0]?.rule.page : undefined;
  return page && literalOf(page.pattern) !== null ? page.title : null;
}

function unlikeness(asked: string, last: string, letters: number, one: Candidate): number {
  const whole = share(asked, one.text, letters, one.letters, FARTHEST);
  const lasts = share(last, one.last, ~0, ~0, FARTHEST - ELSEWHERE);
  return Math.min(whole, ELSEWHERE + lasts);
}

const lastStep = (path: string): string => path.slice(path.lastIndexOf('/') + 1);

/** A bit for each letter that stands in a text. */
function lettersIn(text: string): number {
  let letters = 0;
  for (let i = 0; i < text.length; i++) letters |= 1 << (text.charCodeAt(i) & 31);
  return letters;
}

/** How unlike two texts are, from 0 to 1; 1 where that is more than `most`. */
function share(a: string, b: string, lettersA: number, lettersB: number, most: number): number {
  const longest = Math.max(a.length, b.length);
  if (longest === 0) return 1;
  const limit = Math.floor(most * longest);
  // Lengths and letters alone rule most out, and cost nothing to compare.
  if (Math.abs(a.length - b.length) > limit) return 1;
  if (Math.max(bits(lettersA & ~lettersB), bits(lettersB & ~lettersA)) > limit) return 1;
  const distance = editDistance(a, b, limit);
  return distance > limit ? 1 : distance / longest;
}

function bits(word: number): number {
  let count = 0;
  for (let rest = word; rest !== 0; rest &= rest - 1) count++;
  return count;
}
