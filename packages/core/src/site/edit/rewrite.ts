import { isAlias, isCollection, isMap, isSeq, type Document, type Node, type Pair } from 'yaml';
import { parseYaml } from '../yaml/parse-yaml.ts';
import { childOf, type Collection } from '../yaml/yaml-pointer.ts';
import type { Change } from './patch-value.ts';

/**
 * Makes a change in the document, then writes its section or the whole file with the library. Comments stay. White
 * space may change.
 *
 * @returns null if that is not possible
 */
export function rewritten(text: string, change: Change, how: 'section' | 'file'): string | null {
  const document = parseYaml(text, { uniqueKeys: false });
  const section = change.above[0];
  const before = section === undefined ? null : rangeOf(document, section);
  if (!mutate(document, change)) return null;
  try {
    const written = document.toString({ lineWidth: 0, doubleQuotedMinMultiLineLength: 1e9 });
    const whole = text.includes('\r\n') ? written.replace(/\r?\n/g, '\r\n') : written;
    if (how === 'file') return whole;
    if (before === null) return null;
    const after = rangeOf(parseYaml(whole, { uniqueKeys: false }), section!);
    if (after === null) return null;
    const isCut = text[before.end - 1] === '\n' && whole[after.end - 1] !== '\n';
    const part = whole.slice(after.start, after.end) + (isCut ? '\n' : '');
    return text.slice(0, before.start) + part + text.slice(before.end);
  } catch {
    // The library throws if an alias has lost its anchor.
    return null;
  }
}

/** The range of a section. Null in a flow map. */
function rangeOf(document: Document, section: string): { start: number; end: number } | null {
  const root = document.contents;
  const child = isMap(root) && !root.flow ? childOf(root, section) : null;
  if (!child?.value?.range) return null;
  return { start: child.key.range![0], end: child.value.range[1] };
}

function mutate(document: Document, change: Change): boolean {
  const { above, last } = change;
  document.contents ??= document.createNode({}) as unknown as typeof document.contents;
  let parent: Node | null = document.contents;
  for (const step of above) {
    const child: ReturnType<typeof childOf> = isCollection(parent) ? childOf(parent, step) : null;
    if (!child) return false;
    let next: Node | null = child.value;
    if (isAlias(next)) {
      // The anchored value must not change, so the alias is replaced by a copy.
      next = document.createNode(next.toJS(document)) as Node;
      put(parent as Collection, child.index, next);
    }
    parent = next;
  }
  if (!isCollection(parent)) return false;
  const collection = parent;
  if (change.does === 'add') {
    if (isSeq(collection))
      collection.items.splice(Number(last), 0, document.createNode(change.value));
    else collection.add(document.createPair(last, change.value));
    return true;
  }
  const child = childOf(collection, last);
  if (!child) return false;
  if (change.does === 'remove') collection.items.splice(child.index, 1);
  else if (change.does === 'replace')
    put(collection, child.index, document.createNode(change.value));
  else {
    const name = document.createNode(change.to) as Node;
    const { commentBefore, spaceBefore } = child.key;
    Object.assign(name, { commentBefore, spaceBefore });
    (collection.items[child.index] as Pair).key = name;
  }
  return true;
}

function put(parent: Collection, index: number, value: Node): void {
  if (isMap(parent)) parent.items[index]!.value = value;
  else parent.items[index] = value;
}
