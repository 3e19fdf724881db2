import { isCollection, isMap, isSeq, type Document, type Node, type YAMLSeq } from 'yaml';
import { pointer } from './pointer.ts';
import type { PatchOperation } from './problem.ts';
import {
  endOf,
  indentationOf,
  inFlow,
  insertAfter,
  lineAfter,
  lineFor,
  type Collection,
} from './yaml-lines.ts';
import { childOf, nodeAt, stepsOf, type Child } from './yaml-pointer.ts';
import { parseYaml } from './parse-yaml.ts';

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
    const entries = run.length > 0 ? null : runOfFlowEntries(patched, operations, i);
    if (run.length > 0) patched = spliced(patched, run);
    else patched = entries?.text ?? applyOne(patched, operations[i]!, i);
    i += Math.max(run.length, entries?.length ?? 1);
  }
  return patched;
}

/** The library's own test for keys that stand twice compares each with all others. */
const parsed = (text: string): Document => parseYaml(text, { uniqueKeys: false });

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

/**
 * Operations in a row that each change a place of their own: the file need be read only once for all of them.
 * Each is planned on the file as it is before the first, so that none may depend on another.
 */
function runOfSplices(
  text: string,
  operations: readonly PatchOperation[],
  first: number,
): readonly Splice[] {
  const run: Splice[] = [];
  const touched = new Touched();
  const removed = new Map<Node, number>();
  let document: Document | null = null;
  for (const operation of operations.slice(first)) {
    if (operation.op === 'copy' || operation.op === 'test') break;
    const path = operation.op === 'move' ? operation.from : operation.path;
    if ([path, operation.path].some((one) => touched.overlaps(one))) break;
    document ??= parsed(text);
    const splice = document.errors.length > 0 ? null : spliceOf(text, document, operation, removed);
    if (splice === null) break;
    run.push(splice);
    // To a list, any number of entries may be added behind each other.
    if (!path.endsWith('/-')) for (const one of [path, operation.path]) touched.add(one);
  }
  return run;
}

/** Places of a document that were touched; a place within another is that one too. */
class Touched {
  private readonly places = new Set<string>();
  private readonly above = new Set<string>();

  add(path: string): void {
    this.places.add(path);
    for (const one of prefixesOf(path)) this.above.add(one);
  }

  overlaps(path: string): boolean {
    if (this.places.has(path) || this.above.has(path)) return true;
    return prefixesOf(path).some((one) => this.places.has(one));
  }
}

function prefixesOf(path: string): string[] {
  const prefixes: string[] = [];
  for (let at = path.lastIndexOf('/'); at > 0; at = path.lastIndexOf('/', at - 1))
    prefixes.push(path.slice(0, at));
  return prefixes;
}

function spliceOf(
  text: string,
  document: Document,
  operation: Exclude<PatchOperation, { op: 'copy' | 'test' }>,
  removed: Map<Node, number>,
): Splice | null {
  if (operation.op === 'add') return addition(text, document, operation);
  const steps = stepsOf(operation.op === 'move' ? operation.from : operation.path) ?? [];
  const last = steps.at(-1);
  const parent = last === undefined ? null : nodeAt(document, steps.slice(0, -1));
  const target = parent && childOf(parent, last!);
  if (!target) return null;
  if (operation.op === 'replace') return replacement(text, document, target, operation.value);
  if (operation.op === 'remove') {
    // Of a list, the others move up; of what is left empty, something else stands in the place.
    const gone = (removed.get(parent) ?? 0) + 1;
    if (!isMap(parent) || parent.flow || gone >= parent.items.length) return null;
    removed.set(parent, gone);
    return removal(text, target);
  }
  const to = stepsOf(operation.path) ?? [];
  const isRename =
    isMap(parent) &&
    pointer(...to.slice(0, -1)) === pointer(...steps.slice(0, -1)) &&
    !childOf(parent, to.at(-1)!);
  if (!isRename) return null;
  const [start, end] = target.key.range!;
  return { start, end, written: written(document, to.at(-1)!) };
}

/** A new entry of a map or at the end of a list that stands on lines of its own; null for any other. */
function addition(
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

/** New entries in a row of one map or list that stands on one line: it is written anew once for all of them. */
function runOfFlowEntries(
  text: string,
  operations: readonly PatchOperation[],
  first: number,
): { readonly text: string; readonly length: number } | null {
  const above = parentPath(operations[first]!);
  const run: { readonly last: string; readonly value: unknown }[] = [];
  const names = new Set<string>();
  for (const operation of operations.slice(first)) {
    const last = stepsOf(operation.path)?.at(-1);
    if (operation.op !== 'add' || last === undefined || parentPath(operation) !== above) break;
    if (last !== '-' && names.has(last)) break;
    names.add(last);
    run.push({ last, value: operation.value });
  }
  if (run.length < 2 || above === null) return null;
  const document = parsed(text);
  const steps = stepsOf(above) ?? [];
  const parent = document.errors.length > 0 ? null : nodeAt(document, steps);
  if (parent?.flow !== true) return null;
  if (run.some(({ last }) => (isMap(parent) ? childOf(parent, last) : last !== '-'))) return null;
  const written = rewrite(text, document, steps, (node) => {
    for (const { last, value } of run)
      if (isMap(node)) node.items.push(document.createPair(last, value));
      else (node as YAMLSeq).add(document.createNode(value));
  });
  return { text: written, length: run.length };
}

const parentPath = ({ path }: PatchOperation): string | null =>
  path.includes('/') ? path.slice(0, path.lastIndexOf('/')) : null;

/** Puts all in their places, in order; what is put in at one place stands there in the order of the operations. */
function spliced(text: string, splices: readonly Splice[]): string {
  const pieces: string[] = [];
  let from = 0;
  for (const { start, end, written } of [...splices].sort((a, b) => a.start - b.start)) {
    pieces.push(text.slice(from, start), written);
    from = end;
  }
  return pieces.join('') + text.slice(from);
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
  return spliced(text, [removal(text, child)]);
}

/** The lines of an entry. */
function removal(text: string, child: Child): Splice {
  const start = text.lastIndexOf('\n', child.key.range![0] - 1) + 1;
  const valueEnd = (child.value ?? child.key).range![1];
  const end =
    text[valueEnd - 1] === '\n' ? valueEnd : text.indexOf('\n', valueEnd) + 1 || text.length;
  return { start, end, written: '' };
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
