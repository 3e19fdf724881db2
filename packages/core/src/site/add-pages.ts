import {
  Document,
  isCollection,
  isMap,
  isPair,
  parseDocument,
  type Node,
  type Pair,
  type YAMLMap,
} from 'yaml';

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
    const pair = root.items.find((item) => isPair(item) && String(item.key) === 'pages') as
      Pair<Node, Node | null> | undefined;
    if (!pair) return `${withFinalNewline(text)}\npages:\n${linesOf(pages, '  ')}`;
    if (!isCollection(pair.value))
      return insertAfterLine(text, pair.key.range![1], linesOf(pages, '  '));
    if (isMap(pair.value) && !pair.value.flow && pair.value.items.length > 0) {
      return insertAfterLine(
        text,
        lastOffset(pair.value),
        linesOf(pages, indentationOf(text, pair.value)),
      );
    }
  }
  // A file in JSON, or pages in braces: there is no line to put another behind.
  for (const page of pages) document.setIn(['pages', page.address], valueOf(page));
  return document.toString({ lineWidth: 0 });
}

function linesOf(pages: readonly NewPage[], indentation: string): string {
  return pages
    .map((page) => {
      const line = new Document({ [page.address]: valueOf(page) });
      const [pair] = (line.contents as unknown as YAMLMap).items;
      if (isCollection(pair!.value)) pair!.value.flow = true;
      return `${indentation}${line.toString({ lineWidth: 0 })}`;
    })
    .join('');
}

const valueOf = ({ title, kind }: NewPage): unknown => (kind === 'file' ? { title, kind } : title);

function lastOffset(map: YAMLMap): number {
  const { key, value } = map.items.at(-1) as Pair<Node, Node | null>;
  return value?.range?.[1] ?? key.range![1];
}

function indentationOf(text: string, map: YAMLMap): string {
  const start = (map.items[0]!.key as Node).range![0];
  return text.slice(text.lastIndexOf('\n', start - 1) + 1, start);
}

function insertAfterLine(text: string, offset: number, lines: string): string {
  // The end of a block value is the beginning of the next line already.
  const isAtLineStart = text[offset - 1] === '\n';
  const end = isAtLineStart ? offset - 1 : text.indexOf('\n', offset);
  if (end === -1) return withFinalNewline(text) + lines;
  return text.slice(0, end + 1) + lines + text.slice(end + 1);
}

const withFinalNewline = (text: string): string =>
  text === '' || text.endsWith('\n') ? text : `${text}\n`;
