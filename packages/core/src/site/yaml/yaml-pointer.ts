import {
  isCollection,
  isMap,
  isScalar,
  type Document,
  type Node,
  type YAMLMap,
  type YAMLSeq,
} from 'yaml';

/** A map or a list of a YAML document. */
export type Collection = YAMLMap | YAMLSeq;

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

// Patches look up one key after the other; a map whose length is the same has the same keys.
const known = new WeakMap<
  YAMLMap,
  { readonly length: number; readonly keys: Map<string, number> }
>();

/** The keys of a map with their places; the first counts where one stands twice. */
function keysOf(map: YAMLMap): ReadonlyMap<string, number> {
  const before = known.get(map);
  if (before?.length === map.items.length) return before.keys;
  const keys = new Map<string, number>();
  map.items.forEach(({ key }, index) => {
    if (isScalar(key) && !keys.has(String(key.value))) keys.set(String(key.value), index);
  });
  known.set(map, { length: map.items.length, keys });
  return keys;
}

/** One entry of a map or item of a list; null where it is not there. */
export function childOf(parent: Collection, step: string): Child | null {
  if (isMap(parent)) {
    const index = keysOf(parent).get(step);
    const pair = index === undefined ? undefined : parent.items[index];
    return pair ? { key: pair.key as Node, value: pair.value as Node | null, index: index! } : null;
  }
  const item = /^\d+$/.test(step) ? (parent.items[Number(step)] as Node | undefined) : undefined;
  return item ? { key: item, value: item, index: Number(step) } : null;
}
