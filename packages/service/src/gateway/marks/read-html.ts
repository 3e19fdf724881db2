import { MarkReader, type Variant } from './mark-reader.ts';
import { UnclearPage, type Mark, type MarkedBytes, type MarkedPage } from './marked-page.ts';
import type { PageText } from './page-text.ts';
import { markedTree } from './tree.ts';

/**
 * How much is read before the attributes of a tag are counted, and into how many pieces a page is divided: with each
 * piece, the parser copies what it has of a text or a comment that goes on.
 */
const STEP = 8192;
const MOST_STEPS = 256;

/**
 * Finds what is marked in an HTML page (HTML Living Standard, 13.2): a byte is in an element if what it stands
 * for is in that element in the tree that browsers make of the page.
 * @throws UnclearPage where browsers differ, or the page has a mark that is on no element
 */
export function readHtml(page: PageText): MarkedPage {
  const first = readAs(page, { scripting: true, richSelect: false });
  const others: Variant[] = [
    ...(/<noscript/i.test(page.text) ? [{ scripting: false, richSelect: false }] : []),
    ...(/<select/i.test(page.text) ? [{ scripting: true, richSelect: true }] : []),
  ];
  for (const variant of others)
    if (!isSame(first, readAs(page, variant)))
      throw new UnclearPage('browsers differ in what is in its marked elements');
  return first;
}

function readAs(page: PageText, variant: Variant): MarkedBytes[] {
  const reader = new MarkReader(page.text, variant);
  const step = Math.max(STEP, Math.ceil(page.text.length / MOST_STEPS));
  for (let at = 0; at < page.text.length; at += step)
    reader.read(page.text.slice(at, at + step), at + step >= page.text.length);
  return markedTree(reader.pieces(), reader.elements, page);
}

/** Whether two readings take the same bytes for marked by the same marks. */
function isSame(one: readonly MarkedBytes[], other: readonly MarkedBytes[]): boolean {
  const print = (marked: readonly MarkedBytes[]): string =>
    JSON.stringify(marked.map(({ start, end, marks }) => [start, end, marks.map(printMark)]));
  return print(one) === print(other);
}

const printMark = (mark: Mark): unknown =>
  mark.is === 'entry'
    ? mark.is
    : [mark.is === 'part' ? mark.name : mark.href, mark.above && printMark(mark.above)];
