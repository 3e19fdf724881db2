import {
  isCollection,
  isMap,
  isScalar,
  isSeq,
  parseDocument,
  type Document,
  type Node,
  type Pair,
  type YAMLSeq,
} from 'yaml';
import type { PatchOperation } from './problem.ts';
import {
  endOf,
  indentationOf,
  inFlow,
  insertAfter,
  lineFor,
  type Collection,
} from './yaml-lines.ts';

/** Why a patch could not be applied: which operation, and what is wrong with it. */
export class PatchProblem extends Error {
  constructor(
    readonly operation: number,
    message: string,
  ) {
    super(message);
  }
}

/**
 * Applies a JSON Patch (RFC 6902: add, replace, remove, test) to a site file. What the patch does not
 * touch stays as it was, to the letter: comments, order, quotes and indentation.
 *
 * @returns the new text; all operations are applied, or none
 * @throws PatchProblem
 */
export function patchSite(text: string, operations: readonly PatchOperation[]): string {
  return operations.reduce((before, operation, i) => applyOne(before, operation, i), text);
}

function applyOne(text: string, operation: PatchOperation, number: number): string {
  const fail = (message: string): PatchProblem => new PatchProblem(number, message);
  const document = parseDocument(text);
  if (document.errors.length > 0) throw fail('The site file is not YAML.');
  const steps = stepsOf(operation.path);
  if (steps === null || steps.length === 0)
    throw fail(`"${operation.path}" is not a JSON Pointer to a part of a site file.`);
  const last = steps.at(-1)!;
  if (operation.op === 'add') return add(text, document, steps, operation.value, fail);
  const parent = nodeAt(document, steps.slice(0, -1));
  const target = parent && childOf(parent, last);
  if (!parent || !target) throw fail(`There is nothing at ${operation.path}.`);
  if (operation.op === 'test') {
    if (JSON.stringify(target.value?.toJS(document) ?? null) === JSON.stringify(operation.value))
      return text;
    throw fail(`The value at ${operation.path} is another one.`);
  }
  return operation.op === 'remove'
    ? remove(text, document, parent, steps)
    : replace(text, target, operation.value);
}

type Fail = (message: string) => PatchProblem;
interface Child {
  readonly key: Node;
  readonly value: Node | null;
  readonly index: number;
}

function add(
  text: string,
  document: Document,
  steps: readonly string[],
  value: unknown,
  fail: Fail,
): string {
  const last = steps.at(-1)!;
  const above = steps.slice(0, -1);
  const parent = above.length === 0 ? document.contents! : nodeAt(document, above);
  if (parent === null || !isCollection(parent)) {
    const isMissing = above.length > 0 && nodeAt(document, above.slice(0, -1)) !== null;
    if (!isMissing) throw fail(`There is nothing at ${pointerOf(above)} to add to.`);
    // A section that is not there yet, such as the first gate, is made.
    return add(text, document, above, last === '-' ? [value] : { [last]: value }, fail);
  }
  const existing = childOf(parent, last);
  if (existing && isMap(parent)) return replace(text, existing, value);
  if (isSeq(parent) && last !== '-' && Number(last) !== parent.items.length) {
    if (!existing) throw fail(`The list at ${pointerOf(above)} has no place ${last}.`);
    return rewrite(text, document, above, (node) =>
      (node as YAMLSeq).items.splice(Number(last), 0, document.createNode(value)),
    );
  }
  if (parent.flow || parent.items.length === 0) {
    return rewrite(text, document, above, (node) => {
      if (isMap(node)) node.set(last, document.createNode(value));
      else (node as YAMLSeq).add(document.createNode(value));
    });
  }
  const indentation = indentationOf(text, parent);
  const line = isMap(parent) ? { [last]: value } : [value];
  return insertAfter(text, endOf(parent), lineFor(line, indentation));
}

function replace(text: string, { key, value }: Child, next: unknown): string {
  const written = inFlow(next);
  if (!value?.range)
    return `${text.slice(0, key.range![1])}: ${written}${text.slice(key.range![1] + 1)}`;
  const [start, end] = value.range;
  const isBlock = isCollection(value) && !value.flow;
  // Where a name has nothing behind it, the new value stands right behind the colon.
  const space = text[start - 1] === ':' ? ' ' : '';
  if (!isBlock) return text.slice(0, start) + space + written + text.slice(end);
  // A block stands on lines of its own beneath its name; what takes its place stands behind the name.
  const colon = text.indexOf(':', key.range![1]);
  const tail = text.slice(end);
  return `${text.slice(0, colon + 1)} ${written}${text[end - 1] === '\n' ? '\n' : ''}${tail}`;
}

function remove(
  text: string,
  document: Document,
  parent: Collection,
  steps: readonly string[],
): string {
  const child = childOf(parent, steps.at(-1)!)!;
  if (parent.flow || parent.items.length === 1) {
    const above = steps.slice(0, -1);
    return rewrite(text, document, above, (node) => {
      if (isMap(node)) node.items.splice(child.index, 1);
      else (node as YAMLSeq).items.splice(child.index, 1);
    });
  }
  const start = text.lastIndexOf('\n', child.key.range![0] - 1) + 1;
  const valueEnd = (child.value ?? child.key).range![1];
  const end =
    text[valueEnd - 1] === '\n' ? valueEnd : text.indexOf('\n', valueEnd) + 1 || text.length;
  return text.slice(0, start) + text.slice(end);
}

/** Writes one collection anew, on one line, and nothing around it. */
function rewrite(
  text: string,
  document: Document,
  steps: readonly string[],
  change: (node: Node) => void,
): string {
  const node = nodeAt(document, steps);
  if (!node?.range || steps.length === 0) {
    change(document.contents!);
    return document.toString({ lineWidth: 0 });
  }
  const wasFlow = isCollection(node) && node.flow === true;
  const [start, end] = node.range;
  change(node);
  const written = inFlow(node.toJS(document));
  if (wasFlow) return text.slice(0, start) + written + text.slice(end);
  const before = text.slice(0, start).trimEnd();
  return `${before} ${written}${text[end - 1] === '\n' ? '\n' : ''}${text.slice(end)}`;
}

function stepsOf(pointer: string): string[] | null {
  if (!pointer.startsWith('/')) return pointer === '' ? [] : null;
  return pointer
    .slice(1)
    .split('/')
    .map((step) => step.replace(/~1/g, '/').replace(/~0/g, '~'));
}

const pointerOf = (steps: readonly string[]): string =>
  steps.map((step) => `/${step.replace(/~/g, '~0').replace(/\//g, '~1')}`).join('');

function nodeAt(document: Document, steps: readonly string[]): Collection | null {
  let node: Node | null = document.contents;
  for (const step of steps) {
    if (!isCollection(node)) return null;
    node = childOf(node, step)?.value ?? null;
  }
  return isCollection(node) ? node : null;
}

function childOf(parent: Collection, step: string): Child | null {
  if (isMap(parent)) {
    const index = (parent.items as Pair<Node, Node | null>[]).findIndex(
      ({ key }) => isScalar(key) && String(key.value) === step,
    );
    const pair = (parent.items as Pair<Node, Node | null>[])[index];
    return pair ? { key: pair.key, value: pair.value, index } : null;
  }
  const item = /^\d+$/.test(step) ? (parent.items[Number(step)] as Node | undefined) : undefined;
  return item ? { key: item, value: item, index: Number(step) } : null;
}
