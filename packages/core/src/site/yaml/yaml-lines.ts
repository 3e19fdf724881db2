import { Document, isCollection, isMap, isSeq, type Node, type Pair, type YAMLSeq } from 'yaml';

/** Disables folding: folded text depends on the indentation around it. */
const AS_IT_IS = { lineWidth: 0, doubleQuotedMinMultiLineLength: 1e9 };

/** Writes a value on one line, so that it may stand anywhere, also between braces. */
export function inFlow(value: unknown): string {
  const document = new Document([value]);
  (document.contents as YAMLSeq).flow = true;
  return document
    .toString(AS_IT_IS)
    .trimEnd()
    .replace(/^\[ ?| ?\]$/g, '');
}

/** Writes one entry of a flow map or list. */
export function entryInFlow(entry: Record<string, unknown> | readonly [unknown]): string {
  return Array.isArray(entry) ? inFlow(entry[0]) : inFlow(entry).replace(/^\{ ?| ?\}$/g, '');
}

/** A longer line can not be reviewed. */
const LONGEST = 200;

/**
 * Writes one entry of a map or list on its own line. A value that is too long gets one line for each of its entries.
 * @param isSection its value always gets one line for each entry
 */
export function linesFor(
  entry: Record<string, unknown> | readonly [unknown],
  indentation: string,
  isSection = false,
): string {
  const document = new Document(entry);
  for (const node of valuesOf(document.contents)) {
    if (isSection) for (const inner of valuesOf(node)) layOut(inner, document);
    else layOut(node, document);
  }
  return document.toString(AS_IT_IS).replace(/(^|\n)(?=[^\n])/g, `$1${indentation}`);
}

function layOut(node: Node | null, document: Document): void {
  if (!isCollection(node)) return;
  const line = inFlow(node.toJS(document));
  node.flow = line.length <= LONGEST && !line.includes('\\n');
  if (!node.flow) for (const inner of valuesOf(node)) layOut(inner, document);
}

function valuesOf(node: Node | null): (Node | null)[] {
  if (isMap(node)) return (node.items as Pair<Node, Node | null>[]).map(({ value }) => value);
  return isSeq(node) ? (node.items as Node[]) : [];
}
