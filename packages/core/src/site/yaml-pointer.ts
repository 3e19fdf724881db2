import { isCollection, isMap, isScalar, type Document, type Node, type Pair } from 'yaml';
import type { Collection } from './yaml-lines.ts';

/** An entry of a map, or an item of a list, in a YAML document. */
export interface Child {
  readonly key: Node;
  readonly value: Node | null;
  readonly index: number;
}

/** The steps of a JSON Pointer (RFC 6901); null for what is none. */
export function stepsOf(pointer: string): string[] | null {
  if (!pointer.startsWith('/')) return pointer === '' ? [] : null;
  return pointer
    .slice(1)
    .split('/')
    .map((step) => step.replace(/~1/g, '/').replace(/~0/g, '~'));
}

/** The map or list at the end of these steps; null where none is. */
export function nodeAt(document: Document, steps: readonly string[]): Collection | null {
  let node: Node | null = document.contents;
  for (const step of steps) {
    if (!isCollection(node)) return null;
    node = childOf(node, step)?.value ?? null;
  }
  return isCollection(node) ? node : null;
}

/** One entry of a map or item of a list; null where it is not there. */
export function childOf(parent: Collection, step: string): Child | null {
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
