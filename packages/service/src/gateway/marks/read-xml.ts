import { decodeXML } from 'entities';
import { SaxesParser } from 'saxes';
import { UnclearPage, type MarkedPage } from './marked-page.ts';
import type { PageText } from './page-text.ts';
import { append, markedTree, nodeOf, plainNode, type TreeNode } from './tree.ts';

/** A document type that makes browsers know the names of HTML's characters (HTML Living Standard, 14.2). */
const XHTML = /<!DOCTYPE[^>[]*-\/\/W3C\/\/DTD (?:XHTML|MathML)[^>[]*>/;
const INTERNAL_SUBSET = /<!DOCTYPE[^>]*\[/i;

/** The pieces of a document that is known to be well formed (XML 1.0, 2). */
const PIECE =
  /<!--[\s\S]*?-->|<!\[CDATA\[[\s\S]*?\]\]>|<\?[\s\S]*?\?>|<![^>]*>|<\/[^>]*>|<[^\s/>]+(?:\s+[^\s=/>]+\s*=\s*(?:"[^"]*"|'[^']*'))*\s*\/?>|[^<]+/gy;
const ATTRIBUTE = /([^\s=/>]+)\s*=\s*(?:"([^"]*)"|'([^']*)')/g;

/**
 * Finds what is marked in an XML document, such as a page in XHTML.
 * @throws UnclearPage where it is not well formed, or defines entities of its own, which may be anything
 */
export function readXml(page: PageText): MarkedPage {
  checkWellFormed(page.text);
  const root = plainNode('#document');
  const elements: TreeNode[] = [];
  const pieces: { start: number; end: number; nodes: TreeNode[]; movedFrom: null }[] = [];
  let current = root;
  for (const [piece] of page.text.matchAll(PIECE)) {
    const start = pieces.at(-1)?.end ?? 0;
    const end = start + piece.length;
    let node = current;
    if (piece.startsWith('</')) current = current.parent ?? root;
    else if (/^<[^!?]/.test(piece)) {
      node = nodeOf(
        /^<(?:[^\s:/>]+:)?([^\s/>]+)/.exec(piece)![1]!,
        'xml',
        [...piece.matchAll(ATTRIBUTE)].map(([, name, one, other]) => ({
          name: name!,
          value: decodeXML(one ?? other ?? ''),
        })),
      );
      append(current, node);
      elements.push(node);
      if (!piece.endsWith('/>')) current = node;
    } else if (!piece.startsWith('<') || piece.startsWith('<![CDATA['))
      current.hasText ||= /\S/.test(piece);
    pieces.push({ start, end, nodes: [node], movedFrom: null });
  }
  return markedTree(pieces, elements, page);
}

function checkWellFormed(text: string): void {
  if (INTERNAL_SUBSET.test(text)) throw new UnclearPage('its document type defines entities');
  const parser = new SaxesParser({ xmlns: true });
  if (XHTML.test(text)) parser.ENTITIES = KNOWN_NAMES;
  parser.on('error', (error) => {
    throw new UnclearPage(`it is not well formed: ${error.message}`);
  });
  parser.write(text).close();
}

/** Every name stands for some character; which one makes no difference to what is marked. */
const KNOWN_NAMES = new Proxy<Record<string, string>>(
  {},
  { get: (_, name) => (typeof name === 'string' && /^[A-Za-z]\w*$/.test(name) ? '?' : undefined) },
);
