import { isCollection, isMap, parseDocument, type Node, type Pair } from 'yaml';
import { endOf, indentationOf, insertAfter, lineFor } from './yaml-lines.ts';

/** A page to be added to a site file. */
export interface NewPage {
  /** Its address, as a pattern. */
  readonly address: string;
  readonly title: string;
  readonly kind?: 'document' | 'file';
}

/**
 * Adds pages to a site file, at the end of those it has. Everything else stays as it was, to the
 * letter: comments, order, quotes and indentation.
 *
 * @param text a site file without syntax errors
 * @returns the new text
 */
export function addPages(text: string, pages: readonly NewPage[]): string {
  if (pages.length === 0) return text;
  const document = parseDocument(text);
  const root = document.contents;
  if (isMap(root) && !root.flow) {
    const pair = (root.items as Pair<Node, Node | null>[]).find(
      ({ key }) => String(key) === 'pages',
    );
    if (!pair) return `${withFinalNewline(text)}\npages:\n${linesOf(pages, '  ')}`;
    const { key, value } = pair;
    if (!isCollection(value)) return insertAfter(text, key.range![1], linesOf(pages, '  '));
    if (isMap(value) && !value.flow && value.items.length > 0) {
      return insertAfter(text, endOf(value), linesOf(pages, indentationOf(text, value)));
    }
  }
  // A file in JSON, or pages in braces: there is no line to put another behind.
  for (const page of pages) document.setIn(['pages', page.address], valueOf(page));
  return document.toString({ lineWidth: 0 });
}

const linesOf = (pages: readonly NewPage[], indentation: string): string =>
  pages.map((page) => lineFor({ [page.address]: valueOf(page) }, indentation)).join('');

const valueOf = ({ title, kind }: NewPage): unknown => (kind === 'file' ? { title, kind } : title);

const withFinalNewline = (text: string): string =>
  text === '' || text.endsWith('\n') ? text : `${text}\n`;
