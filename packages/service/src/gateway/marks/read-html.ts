import { MarkReader, type Variant } from './mark-reader.ts';
import { UnclearPage, type Mark, type MarkedBytes, type MarkedPage } from './marked-page.ts';
import type { PageText } from './page-text.ts';
import { markedTree } from './tree.ts';

/** A tag may be read in several pieces: how much is read before its attributes are counted. */
const STEP = 8192;

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
  for (let at = 0; at < page.text.length; at += STEP)
    reader.read(page.text.slice(at, at + STEP), at + STEP >= page.text.length);
  const pieces = reader.pieces();
  const places = page.bytesAt(pieces.flatMap(({ start, end }) => [start, end]));
  return markedTree(
    pieces.map((piece, i) => ({ ...piece, start: places[2 * i]!, end: places[2 * i + 1]! })),
    reader.elements,
    page.valueOf,
  );
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
