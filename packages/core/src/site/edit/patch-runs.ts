import { isMap, type Document, type Node, type Pair } from 'yaml';
import {
  addition,
  parsed,
  removal,
  replacement,
  rewrite,
  written,
  type Splice,
} from './patch-text.ts';
import { pointer } from '../yaml/pointer.ts';
import { childOf, nodeAt, stepsOf } from '../yaml/yaml-pointer.ts';
import type { PatchOperation } from '../../model/patch-operation.ts';

/**
 * Operations in a row that each change a place of their own: the file need be read only once for all of them.
 * Each is planned on the file as it is before the first, so that none may depend on another.
 */
export function runOfSplices(
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
    // Removing an item changes the positions behind it; removing the last entry changes how the rest is written.
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

/**
 * Entries in a row that are put into one map or list on one line, or taken out of it: it is written anew once
 * for all of them.
 * @returns null where the first two operations are nothing of the kind
 */
export function runOfFlowEntries(
  text: string,
  operations: readonly PatchOperation[],
  first: number,
): { readonly text: string; readonly length: number } | null {
  const above = parentPath(operations[first]!);
  const second = operations[first + 1];
  if (above === null || !second || parentPath(second) !== above) return null;
  const document = parsed(text);
  const steps = stepsOf(above) ?? [];
  const parent = document.errors.length > 0 ? null : nodeAt(document, steps);
  if (parent?.flow !== true) return null;
  const change = isMap(parent)
    ? mapEntries(parent.items, document)
    : listItems(parent.items as Node[], document);
  let length = 0;
  for (const operation of operations.slice(first)) {
    const last = stepsOf(operation.path)?.at(-1);
    if (last === undefined || parentPath(operation) !== above || !change.make(operation, last))
      break;
    length++;
  }
  if (length < 2) return null;
  parent.items = change.items() as typeof parent.items;
  return { text: rewrite(text, document, steps, () => undefined), length };
}

/** What is done to the entries of one collection, one after the other. */
interface Entries {
  /** @returns false where the operation can't be done so, or not at all */
  make(operation: PatchOperation, last: string): boolean;
  items(): readonly unknown[];
}

function mapEntries(items: readonly Pair[], document: Document): Entries {
  // Names as they are compared elsewhere; one that stands twice is left to whoever does one thing at a time.
  const byName = new Map(
    items.map((pair) => [String((pair.key as Node & { value?: unknown }).value), pair]),
  );
  const isPlain = byName.size === items.length;
  return {
    make: (operation, last) => {
      if (!isPlain) return false;
      if (operation.op === 'remove') return byName.delete(last);
      if (operation.op !== 'add' || byName.has(last)) return false;
      byName.set(last, document.createPair(last, operation.value));
      return true;
    },
    items: () => [...byName.values()],
  };
}

function listItems(before: readonly Node[], document: Document): Entries {
  const items = [...before];
  return {
    make: (operation, last) => {
      const at = last === '-' ? items.length : /^\d+$/.test(last) ? Number(last) : Infinity;
      if (operation.op === 'remove' && at < items.length) items.splice(at, 1);
      else if (operation.op === 'add' && at <= items.length)
        items.splice(at, 0, document.createNode(operation.value));
      else return false;
      return true;
    },
    items: () => items,
  };
}

const parentPath = ({ path }: PatchOperation): string | null =>
  path.includes('/') ? path.slice(0, path.lastIndexOf('/')) : null;
