import { isMap, type Document } from 'yaml';
import type { PatchOperation } from '../../model/patch-operation.ts';
import { pointer } from '../yaml/pointer.ts';
import { childOf, nodeAt, type Child, type Collection } from '../yaml/yaml-pointer.ts';
import type { Change } from './patch-value.ts';
import { endOfEntry, lineAfter, Places, type Adding, type Entry, type Splice } from './places.ts';

/** Applies replacements. Insertions at the same place keep their order. Null if two replacements overlap. */
export function spliced(text: string, splices: readonly Splice[]): string | null {
  const lineEnd = text.includes('\r\n') ? '\r\n' : '\n';
  const pieces: string[] = [];
  let from = 0;
  for (const { start, end, written } of [...splices].sort((a, b) => a.start - b.start)) {
    if (start < from) return null;
    pieces.push(text.slice(from, start), written.replaceAll('\n', lineEnd));
    from = end;
  }
  return pieces.join('') + text.slice(from);
}

/** Independent changes to a file. */
export interface SplicePlan {
  /** Whether an operation is independent of all planned changes. */
  isFree(operation: PatchOperation): boolean;
  /** Plans a change. False if there is no simple place for it. */
  add(change: Change): boolean;
  splices(): Splice[];
}

/** The range that a change replaces or removes. Comments in it may be lost. Null for other changes. */
export function touchedBy(
  text: string,
  document: Document,
  { above, last, does }: Change,
): readonly [start: number, end: number] | null {
  const parent = nodeAt(document, above);
  const target = parent && (does === 'remove' || does === 'replace') ? childOf(parent, last) : null;
  if (!target) return null;
  if (does === 'replace')
    return target.value?.range ? [target.value.range[0], endOfEntry(target)] : null;
  const end = endOfEntry(target);
  return [target.key.range![0], parent!.flow ? end : (lineAfter(text, end) ?? text.length)];
}

/** Starts a plan. All offsets refer to the original text. */
export function planSplices(text: string, document: Document): SplicePlan {
  const file = new Places(text, document);
  const planned: Splice[] = [];
  const additions = new Map<string, { make: Adding; entries: Entry[] }>();
  const lowestRemoved = new Map<string, number>();
  const removed = new Map<string, number>();
  const paths = new Set<string>();
  const prefixes = new Set<string>();

  /** Whether a planned removal moved the items of a list in the path. Removing earlier items and appending are still safe. */
  const isMoved = (operation: PatchOperation, path: string): boolean =>
    prefixesOf(path).some((list) => {
      const lowest = lowestRemoved.get(list);
      if (lowest === undefined) return false;
      const last = path.slice(list.length + 1);
      return !(
        (operation.op === 'add' && last === '-') ||
        (operation.op === 'remove' && !last.includes('/') && Number(last) < lowest)
      );
    });

  const addEntry = (change: Change & { does: 'add' }): boolean => {
    const path = pointer(...change.above);
    let own = additions.get(path);
    if (!own) {
      const make = file.adding(change.above);
      if (!make) return false;
      additions.set(path, (own = { make, entries: [] }));
    }
    own.entries.push([change.last, change.value]);
    return true;
  };

  const planOne = (change: Change, parent: Collection, target: Child): Splice[] | null => {
    if (change.does === 'rename') return file.renaming(target, change.to);
    if (change.does === 'replace')
      return file.replacing(parent, target, change.above, change.value);
    if (change.does !== 'remove') return null;
    const path = pointer(...change.above);
    const gone = (removed.get(path) ?? 0) + 1;
    if (gone > 1 && (gone >= parent.items.length || (parent.flow && target.index === 0)))
      return null;
    const splice = file.removing(parent, target, change.above);
    if (!splice) return null;
    removed.set(path, gone);
    if (!isMap(parent)) lowestRemoved.set(path, target.index);
    return splice;
  };

  return {
    isFree: (operation) => {
      const own = 'from' in operation ? [operation.from, operation.path] : [operation.path];
      return own.every((path) => {
        const isTaken = paths.has(path) && !(operation.op === 'add' && path.endsWith('/-'));
        return (
          !isTaken &&
          !prefixes.has(path) &&
          !prefixesOf(path).some((one) => paths.has(one)) &&
          !isMoved(operation, path)
        );
      });
    },
    add: (change) => {
      const { above, last } = change;
      const parent = nodeAt(document, above);
      const isEnd =
        change.does === 'add' &&
        (!parent ||
          isMap(parent) ||
          Number(last) >= parent.items.length - (removed.get(pointer(...above)) ?? 0));
      if (change.does === 'add' && isEnd) {
        if (!addEntry(change)) return false;
      } else {
        const target = parent && childOf(parent, last);
        if (!target) return false;
        const made =
          change.does === 'add'
            ? additions.size + planned.length > 0
              ? null
              : file.inserting(parent, target, change.value)
            : planOne(change, parent, target);
        if (!made) return false;
        planned.push(...made);
      }
      const own = change.does === 'rename' ? [last, change.to] : [last];
      for (const one of own) {
        const path = pointer(...above, one);
        paths.add(path);
        for (const prefix of prefixesOf(path)) prefixes.add(prefix);
      }
      return true;
    },
    splices: () => [
      ...planned,
      ...[...additions.values()].flatMap(({ make, entries }) => make(entries)),
    ],
  };
}

function prefixesOf(path: string): string[] {
  const found: string[] = [];
  for (let at = path.lastIndexOf('/'); at > 0; at = path.lastIndexOf('/', at - 1))
    found.push(path.slice(0, at));
  return found;
}
