import {
  isCollection,
  isMap,
  isSeq,
  parseDocument,
  type Document,
  type Node,
  type YAMLSeq,
} from 'yaml';
import { pointer } from './pointer.ts';
import type { PatchOperation } from './problem.ts';
import {
  endOf,
  indentationOf,
  inFlow,
  insertAfter,
  lineFor,
  type Collection,
} from './yaml-lines.ts';
import { childOf, nodeAt, stepsOf, type Child } from './yaml-pointer.ts';

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
 * Applies a JSON Patch (RFC 6902) to a site file. What the patch does not touch stays as it was, to
 * the letter: comments, order, quotes and indentation. A move within a map renames, and keeps the
 * entry where it stands with its comments.
 *
 * @returns the new text; all operations are applied, or none
 * @throws PatchProblem
 */
export function patchSite(text: string, operations: readonly PatchOperation[]): string {
  let patched = text;
  for (let i = 0; i < operations.length;) {
    const run = runOfSplices(patched, operations, i);
    patched = run.length > 0 ? spliced(patched, run) : applyOne(patched, operations[i]!, i);
    i += Math.max(run.length, 1);
  }
  return patched;
}

/** The library's own test for keys that stand twice compares each with all others. */
const parsed = (text: string): Document => parseDocument(text, { uniqueKeys: false });

interface Splice {
  readonly start: number;
  readonly end: number;
  readonly written: string;
}

/** A value on one line, as the file writes them: a file in JSON stays JSON. */
const written = (document: Document, value: unknown): string =>
  isJson(document) ? JSON.stringify(value) : inFlow(value);

const isJson = ({ contents }: Document): boolean =>
  isCollection(contents) && contents.flow === true;

/** Operations in a row that each change a place of their own: the file need be read only once for all of them. */
function runOfSplices(
  text: string,
  operations: readonly PatchOperation[],
  first: number,
): readonly Splice[] {
  const run: Splice[] = [];
  const touched: string[] = [];
  let document: Document | null = null;
  for (const operation of operations.slice(first)) {
    if (operation.op !== 'replace' && operation.op !== 'move') break;
    const path = operation.op === 'move' ? operation.from : operation.path;
    if ([path, operation.path].some((one) => touched.some((other) => isWithin(one, other)))) break;
    document ??= parsed(text);
    const splice = document.errors.length > 0 ? null : spliceOf(text, document, operation);
    if (splice === null) break;
    run.push(splice);
    touched.push(path, operation.path);
  }
  return run;
}

const isWithin = (one: string, other: string): boolean =>
  one === other || one.startsWith(`${other}/`) || other.startsWith(`${one}/`);

function spliceOf(
  text: string,
  document: Document,
  operation: Extract<PatchOperation, { op: 'replace' | 'move' }>,
): Splice | null {
  const steps = stepsOf(operation.op === 'move' ? operation.from : operation.path) ?? [];
  const last = steps.at(-1);
  const parent = last === undefined ? null : nodeAt(document, steps.slice(0, -1));
  const target = parent && childOf(parent, last!);
  if (!target) return null;
  if (operation.op === 'replace') return replacement(text, document, target, operation.value);
  const to = stepsOf(operation.path) ?? [];
  const isRename =
    isMap(parent) &&
    pointer(...to.slice(0, -1)) === pointer(...steps.slice(0, -1)) &&
    !childOf(parent, to.at(-1)!);
  if (!isRename) return null;
  const [start, end] = target.key.range!;
  return { start, end, written: written(document, to.at(-1)!) };
}

/** Puts all in their places, from the end, so that no place moves before its turn. */
function spliced(text: string, splices: readonly Splice[]): string {
  return [...splices]
    .sort((a, b) => b.start - a.start)
    .reduce(
      (before, { start, end, written }) => before.slice(0, start) + written + before.slice(end),
      text,
    );
}

function applyOne(text: string, operation: PatchOperation, number: number): string {
  const fail = (message: string): PatchProblem => new PatchProblem(number, message);
  const document = parsed(text);
  if (document.errors.length > 0) throw fail('The site file is not YAML.');
  if (operation.op === 'move' || operation.op === 'copy')
    return transfer(text, document, operation, number, fail);
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
    : spliced(text, [replacement(text, document, target, operation.value)]);
}

/** Moves or copies a value to where it was not. */
function transfer(
  text: string,
  document: Document,
  { op, from, path }: Extract<PatchOperation, { op: 'move' | 'copy' }>,
  number: number,
  fail: Fail,
): string {
  const steps = stepsOf(from) ?? [];
  const last = steps.at(-1);
  const parent = last === undefined ? null : nodeAt(document, steps.slice(0, -1));
  const source = parent && childOf(parent, last!);
  if (!source) throw fail(`There is nothing at ${from}.`);
  if (op === 'move' && path.startsWith(`${from}/`))
    throw fail(`${from} can't be moved into itself.`);
  const value: unknown = source.value?.toJS(document) ?? null;
  const without = op === 'move' ? applyOne(text, { op: 'remove', path: from }, number) : text;
  return applyOne(without, { op: 'add', path, value }, number);
}

type Fail = (message: string) => PatchProblem;

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
    if (!isMissing) throw fail(`There is nothing at ${pointer(...above)} to add to.`);
    // A section that is not there yet, such as the first gate, is made.
    return add(text, document, above, last === '-' ? [value] : { [last]: value }, fail);
  }
  const existing = childOf(parent, last);
  if (existing && isMap(parent))
    return spliced(text, [replacement(text, document, existing, value)]);
  if (isSeq(parent) && last !== '-' && Number(last) !== parent.items.length) {
    if (!existing) throw fail(`The list at ${pointer(...above)} has no place ${last}.`);
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

function replacement(
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
    return isJson(document)
      ? `${JSON.stringify(document.toJS(), null, 2)}\n`
      : document.toString({ lineWidth: 0 });
  }
  const wasFlow = isCollection(node) && node.flow === true;
  const [start, end] = node.range;
  change(node);
  const line = written(document, node.toJS(document));
  if (wasFlow) return text.slice(0, start) + line + text.slice(end);
  const before = text.slice(0, start).trimEnd();
  return `${before} ${line}${text[end - 1] === '\n' ? '\n' : ''}${text.slice(end)}`;
}
