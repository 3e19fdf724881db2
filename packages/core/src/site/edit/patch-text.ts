import { isCollection, isMap, type Document, type Node } from 'yaml';
import { parseYaml } from '../yaml/parse-yaml.ts';
import { blockFor, endOf, indentationOf, inFlow, lineAfter, lineFor } from '../yaml/yaml-lines.ts';
import { childOf, nodeAt, stepsOf, type Child } from '../yaml/yaml-pointer.ts';
import type { PatchOperation } from '../../model/patch-operation.ts';

/** The library's own test for keys that stand twice compares each with all others. */
export const parsed = (text: string): Document => parseYaml(text, { uniqueKeys: false });

/** A place in a text, and what stands there instead. */
export interface Splice {
  readonly start: number;
  readonly end: number;
  readonly written: string;
}

/** A value on one line, as the file writes them: a file in JSON stays JSON. */
export const written = (document: Document, value: unknown): string =>
  isJson(document) ? JSON.stringify(value) : inFlow(value);

const isJson = ({ contents }: Document): boolean =>
  isCollection(contents) && contents.flow === true;

/** Puts all in their places, in order; what is put in at one place stands there in the order of the operations. */
export function spliced(text: string, splices: readonly Splice[]): string {
  const pieces: string[] = [];
  let from = 0;
  for (const { start, end, written } of [...splices].sort((a, b) => a.start - b.start)) {
    pieces.push(text.slice(from, start), written);
    from = end;
  }
  return pieces.join('') + text.slice(from);
}

/** Another value in the place of the one that an entry has. */
export function replacement(
  text: string,
  document: Document,
  { key, value }: Child,
  next: unknown,
): Splice {
  const line = written(document, next);
  if (!value?.range) return { start: key.range![1], end: key.range![1] + 1, written: `: ${line}` };
  const [start, end] = value.range;
  const isBlock = isCollection(value) && !value.flow;
  // Where a name has nothing behind it, the new value stands right behind the colon.
  const space = text[start - 1] === ':' ? ' ' : '';
  if (!isBlock) return { start, end, written: space + line };
  // A block stands on lines of its own beneath its name; what takes its place stands behind the name.
  const colon = text.indexOf(':', key.range![1]);
  return { start: colon + 1, end, written: ` ${line}${text[end - 1] === '\n' ? '\n' : ''}` };
}

/** A new entry of a map or at the end of a list that stands on lines of its own; null for any other. */
export function addition(
  text: string,
  document: Document,
  { path, value }: Extract<PatchOperation, { op: 'add' }>,
): Splice | null {
  const steps = stepsOf(path);
  const last = steps?.at(-1);
  if (last === undefined) return null;
  const above = steps!.slice(0, -1);
  const parent = above.length === 0 ? document.contents : nodeAt(document, above);
  if (!parent || !isCollection(parent) || parent.flow || parent.items.length === 0) return null;
  if (isMap(parent) ? childOf(parent, last) : last !== '-') return null;
  const at = lineAfter(text, endOf(parent));
  if (at === null) return null;
  const line = isMap(parent) ? { [last]: value } : [value];
  return { start: at, end: at, written: lineFor(line, indentationOf(text, parent)) };
}

/** The lines of an entry. */
export function removal(text: string, child: Child): Splice {
  const start = text.lastIndexOf('\n', child.key.range![0] - 1) + 1;
  const valueEnd = (child.value ?? child.key).range![1];
  const end =
    text[valueEnd - 1] === '\n' ? valueEnd : text.indexOf('\n', valueEnd) + 1 || text.length;
  return { start, end, written: '' };
}

/** A part of a site file that would be longer has a line for each of its entries. */
const LONGEST_LINE = 100;

/** Writes one collection anew, on one line, and nothing around it. */
export function rewrite(
  text: string,
  document: Document,
  steps: readonly string[],
  change: (node: Node) => void,
): string {
  const node = nodeAt(document, steps);
  if (!node?.range || steps.length === 0) {
    change(document.contents!);
    return isJson(document)
      ? `${JSON.stringify(document.toJS(), null, 2)}\n`
      : document.toString({ lineWidth: 0 });
  }
  const wasFlow = isCollection(node) && node.flow === true;
  const [start, end] = node.range;
  change(node);
  const line = written(document, node.toJS(document));
  const isLong = wasFlow && steps.length === 1 && !isJson(document) && line.length > LONGEST_LINE;
  if (isLong && text.slice(end).startsWith('\n'))
    return (
      text.slice(0, start).trimEnd() + blockFor(node.toJS(document), '  ') + text.slice(end + 1)
    );
  if (wasFlow) return text.slice(0, start) + line + text.slice(end);
  const before = text.slice(0, start).trimEnd();
  return `${before} ${line}${text[end - 1] === '\n' ? '\n' : ''}${text.slice(end)}`;
}
