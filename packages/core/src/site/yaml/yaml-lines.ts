import {
  Document,
  isCollection,
  isMap,
  isSeq,
  type Node,
  type Pair,
  type YAMLMap,
  type YAMLSeq,
} from 'yaml';

/** A map or a list of a YAML document. */
export type Collection = YAMLMap | YAMLSeq;

/** Writes a value on one line, so that it may stand anywhere, also between braces. */
export function inFlow(value: unknown): string {
  const document = new Document([value]);
  (document.contents as YAMLSeq).flow = true;
  return document
    .toString({ lineWidth: 0 })
    .trimEnd()
    .replace(/^\[ ?| ?\]$/g, '');
}

/** A longer line can not be reviewed. */
const LONGEST = 200;

/** Writes one entry of a map or a list as a line of its own; what would be too long has a line for each entry. */
export function lineFor(entry: unknown, indentation: string): string {
  const document = new Document(entry);
  for (const node of valuesOf(document.contents!)) layOut(node, document);
  return document.toString({ lineWidth: 0 }).replace(/^(?=.)/gm, indentation);
}

function layOut(node: Node | null, document: Document): void {
  if (!isCollection(node)) return;
  const line = inFlow(node.toJS(document));
  node.flow = line.length <= LONGEST && !line.includes('\n');
  if (!node.flow) for (const inner of valuesOf(node)) layOut(inner, document);
}

function valuesOf(node: Node): (Node | null)[] {
  if (isMap(node)) return (node.items as Pair<Node, Node | null>[]).map(({ value }) => value);
  return isSeq(node) ? (node.items as Node[]) : [];
}

/** Writes a map or list with a line for each of its entries, and behind its name: nothing that is long stays on one line. */
export function blockFor(value: unknown, indentation: string): string {
  const entries: readonly unknown[] = Array.isArray(value)
    ? value.map((item: unknown) => [item])
    : Object.entries(value as Record<string, unknown>).map(([name, item]) => ({ [name]: item }));
  return `\n${entries.map((entry) => lineFor(entry, indentation)).join('')}`;
}

/** Where the last entry of a collection ends. */
export function endOf(parent: Collection): number {
  const last = parent.items.at(-1) as Node | Pair<Node, Node | null>;
  if (!('key' in last)) return last.range![1];
  return (last.value ?? last.key).range![1];
}

/** The spaces before the entries of a block. */
export function indentationOf(text: string, parent: Collection): string {
  const first = parent.items[0] as Node | Pair<Node, Node | null>;
  const start = ('key' in first ? first.key : first).range![0];
  const line = text.slice(text.lastIndexOf('\n', start - 1) + 1, start);
  return /^\s*/.exec(line)![0];
}

/** Where the line begins that is behind the one in which an offset lies, or which ends there; null at the end of a text without one. */
export function lineAfter(text: string, offset: number): number | null {
  // The end of a block is the beginning of the next line already.
  const end = text[offset - 1] === '\n' ? offset - 1 : text.indexOf('\n', offset);
  if (end !== -1) return end + 1;
  return text === '' || text.endsWith('\n') ? text.length : null;
}

/** Puts lines behind the one in which an offset lies, or which ends there. */
export function insertAfter(text: string, offset: number, line: string): string {
  const at = lineAfter(text, offset);
  return at === null ? `${text}\n${line}` : text.slice(0, at) + line + text.slice(at);
}
