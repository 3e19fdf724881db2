import { isAlias, isCollection, isMap, type Document, type Node } from 'yaml';
import type { PatchOperation } from '../../model/patch-operation.ts';
import { isRecord } from '../../model/plain-value.ts';
import { pointer } from '../yaml/pointer.ts';
import { entryInFlow, inFlow, linesFor } from '../yaml/yaml-lines.ts';
import { childOf, nodeAt, type Child, type Collection } from '../yaml/yaml-pointer.ts';
import type { Change } from './patch-value.ts';

/** A place in a text, and what stands there instead. */
export interface Splice {
  readonly start: number;
  readonly end: number;
  readonly written: string;
}

/** Puts all in their places; what is put in at one place stands there in the order of the splices. Null where two overlap. */
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

type Entry = readonly [name: string, value: unknown];
type Adding = (entries: readonly Entry[]) => Splice[];

/** Changes of a file that are each made at a place of their own. */
export interface SplicePlan {
  /** Whether an operation depends on none of the changes that were planned. */
  isFree(operation: PatchOperation): boolean;
  /** Plans a change; false where it has no simple place. */
  add(change: Change): boolean;
  splices(): Splice[];
}

/** What a change replaces or removes; null where it does neither. The comments in there may go. */
export function touchedBy(
  text: string,
  document: Document,
  { above, last, does }: Change,
): readonly [start: number, end: number] | null {
  const parent = above.length === 0 ? collectionIn(document) : nodeAt(document, above);
  const target = parent && (does === 'remove' || does === 'replace') ? childOf(parent, last) : null;
  if (!target) return null;
  if (does === 'replace')
    return target.value?.range ? [target.value.range[0], contentEnd(target.value)] : null;
  const end = endOfEntry(target);
  return [target.key.range![0], parent!.flow ? end : (lineAfter(text, end) ?? text.length)];
}

/** Begins a plan for a file. Everything is planned on the file as it is. */
export function planSplices(text: string, document: Document): SplicePlan {
  const file = new Places(text, document);
  const planned: Splice[] = [];
  const additions = new Map<string, { make: Adding; entries: Entry[] }>();
  const lowestRemoved = new Map<string, number>();
  const removed = new Map<string, number>();
  const paths = new Set<string>();
  const prefixes = new Set<string>();

  /** Whether positions in a list above have changed; from the end on, items may still be removed, and added behind it. */
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
      const parent = above.length === 0 ? collectionIn(document) : nodeAt(document, above);
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

const collectionIn = ({ contents }: Document): Collection | null =>
  isCollection(contents) ? contents : null;

/** A collection on one line that would be longer has a line for each of its entries, if it is a section. */
const LONGEST_SECTION = 100;

/** The places of a file at which something can be changed without touching anything else. */
class Places {
  private readonly isJson: boolean;

  constructor(
    private readonly text: string,
    private readonly document: Document,
  ) {
    const root = collectionIn(document);
    this.isJson = root?.flow === true;
  }

  /** How entries are added to the end of a map or list. */
  adding(above: readonly string[]): Adding | null {
    const { text, document } = this;
    if (above.length === 0 && document.contents === null) return this.atEnd('');
    const parent = above.length === 0 ? collectionIn(document) : nodeAt(document, above);
    if (!parent) return null;
    if (parent.flow) return this.addingToFlow(parent, above);
    const indentation = parent.items.length === 0 ? null : this.indentationOf(parent);
    if (indentation === null) return null;
    const end = endOf(parent);
    const at = lineAfter(text, end);
    // Sections have an empty line between them, if others have.
    const space = above.length === 0 && /\n\r?\n/.test(text) ? '\n' : '';
    const isSection = above.length === 0;
    return (entries) => {
      const lines = entries
        .map(
          ([name, value]) =>
            space + linesFor(isMap(parent) ? { [name]: value } : [value], indentation, isSection),
        )
        .join('');
      return [insertion(at ?? text.length, (at === null ? '\n' : '') + lines)];
    };
  }

  private atEnd(indentation: string): Adding {
    const { text } = this;
    const open = text === '' || text.endsWith('\n') ? '' : '\n';
    return (entries) => [
      insertion(
        text.length,
        open +
          entries.map(([name, value]) => linesFor({ [name]: value }, indentation, true)).join(''),
      ),
    ];
  }

  private addingToFlow(parent: Collection, above: readonly string[]): Adding | null {
    const { text } = this;
    const [start, end] = parent.range!;
    const isList = !isMap(parent);
    const written = (entries: readonly Entry[], between: string): string =>
      entries
        .map(([name, value]) => this.inline(isList ? [value] : { [name]: value }))
        .join(`,${between}`);
    const asLines = (entries: readonly Entry[]): Splice[] | null => {
      const own =
        this.isJson || above.length !== 1 ? null : childOf(collectionIn(this.document)!, above[0]!);
      if (!own || text.slice(start, end).includes('\n')) return null;
      const known = parent.toJS(this.document) as object;
      const all: Entry[] = [...Object.entries(known), ...entries];
      return this.asLines(own.key, parent, all, isList);
    };
    if (parent.items.length === 0) {
      if (text.slice(start + 1, end - 1).trim() !== '') return null;
      return (entries) => {
        const line = written(entries, ' ');
        const lines = line.length > LONGEST_SECTION ? asLines(entries) : null;
        return (
          lines ?? [{ start: start + 1, end: end - 1, written: this.isJson ? line : ` ${line} ` }]
        );
      };
    }
    const at = endOf(parent);
    const between = this.betweenIn(parent);
    return (entries) => {
      const line = `,${between}${written(entries, between)}`;
      const lines = line.length + end - start > LONGEST_SECTION ? asLines(entries) : null;
      return lines ?? [insertion(at, line)];
    };
  }

  /** What stands behind the commas of a map or list on one line: a line break and spaces, or spaces. */
  private betweenIn(parent: Collection): string {
    const { text } = this;
    const [first, second] = [0, 1].map((index) => itemAt(parent, index));
    const gap = second
      ? /^\s*,(\s*)$/.exec(text.slice(endOfEntry(first!), second.key.range![0]))
      : /^.(\s*\n\s*)$/.exec(text.slice(parent.range![0], first!.key.range![0]));
    return gap?.[1]?.replaceAll('\r', '') ?? ' ';
  }

  /** An item before another one of a list. */
  inserting(parent: Collection, before: Child, value: unknown): Splice[] | null {
    const { text } = this;
    if (parent.flow) {
      if (hasProperties(before.value)) return null;
      const written = `${this.inline([value])},${this.betweenIn(parent)}`;
      return [insertion(before.key.range![0], written)];
    }
    const own = this.entryStart(parent, before);
    if (!own) return null;
    // A comment above an item is about that item.
    const at =
      before.index === 0
        ? own.start
        : lineAfter(text, endOfEntry(itemAt(parent, before.index - 1)!));
    return at === null ? null : [insertion(at, linesFor([value], own.indentation))];
  }

  renaming({ key }: Child, to: string): Splice[] | null {
    if (hasProperties(key)) return null;
    const [start, end] = key.range!;
    return [{ start, end, written: this.isJson ? JSON.stringify(to) : inFlow(to) }];
  }

  /** Another value in the place of the one that an entry has. */
  replacing(
    parent: Collection,
    { key, value }: Child,
    above: readonly string[],
    next: unknown,
  ): Splice[] | null {
    const { text } = this;
    const isFull = isCollectionValue(next);
    if (!value?.range)
      return parent.flow ? [insertion(key.range![1], `: ${this.whole(next)}`)] : null;
    if (hasProperties(value)) return null;
    const [start, end] = [value.range[0], contentEnd(value)];
    const lineBreak = text[end - 1] === '\n' ? '\n' : '';
    if (start === end) {
      if (above.length === 0 && isFull && !parent.flow)
        return this.asLines(key, value, Object.entries(next as object), Array.isArray(next));
      const [before, behind] = [text[start - 1], text[start]];
      const isApart = before === ' ' || before === '\n' || (parent.flow && before !== ':');
      return [
        insertion(start, (isApart ? '' : ' ') + this.whole(next) + (behind === '#' ? ' ' : '')),
      ];
    }
    const isBlock = isCollection(value) && !value.flow;
    if (!isBlock) return [{ start, end, written: this.whole(next) + lineBreak }];
    const indentation = this.indentationOf(value);
    if (indentation === null) return null;
    const isItem = key === value;
    const gap = isItem ? null : /^\s*:(\s*)$/.exec(text.slice(key.range![1], start));
    if (isFull) {
      // A list may stand at the indentation of its name, and a map may not.
      const isDeeper = isItem || indentation.length > (this.indentationOf(parent) ?? '').length;
      if (isDeeper) {
        const lines = entriesOf(next)
          .map((entry) => linesFor(entry, indentation))
          .join('');
        return [
          { start, end, written: lines.slice(indentation.length, lineBreak ? undefined : -1) },
        ];
      }
    }
    // Without a comment in between, the value stands behind the name.
    const from = gap ? start - gap[1]!.length : start;
    return [{ start: from, end, written: `${isItem ? '' : ' '}${this.whole(next)}${lineBreak}` }];
  }

  /** Takes out an entry; comments above it stay. */
  removing(parent: Collection, child: Child, above: readonly string[]): Splice[] | null {
    const { text } = this;
    const count = parent.items.length;
    const ends = endOfEntry(child);
    if (count === 1) {
      const [start, end] = parent.range!;
      const empty = isMap(parent) ? {} : [];
      if (!parent.flow) {
        const outer = above.slice(0, -1);
        const around =
          outer.length === 0 ? collectionIn(this.document) : nodeAt(this.document, outer);
        const own = above.length > 0 && around ? childOf(around, above.at(-1)!) : null;
        return own && this.replacing(around!, own, outer, empty);
      }
      const around = text.slice(start + 1, child.key.range![0]) + text.slice(ends, end - 1);
      return /^[\s,]*$/.test(around) ? [{ start: start + 1, end: end - 1, written: '' }] : null;
    }
    if (parent.flow) {
      const [from, to] =
        child.index > 0
          ? [endOfEntry(itemAt(parent, child.index - 1)!), ends]
          : [child.key.range![0], itemAt(parent, 1)!.key.range![0]];
      const gap = child.index > 0 ? text.slice(from, child.key.range![0]) : text.slice(ends, to);
      return /^\s*,\s*$/.test(gap) ? [{ start: from, end: to, written: '' }] : null;
    }
    const own = this.entryStart(parent, child);
    if (own) return [{ start: own.start, end: lineAfter(text, ends) ?? text.length, written: '' }];
    // The first entry of a map behind a dash: the second one takes its place.
    const next = itemAt(parent, child.index + 1);
    if (child.index > 0 || !next) return null;
    const [from, to] = [child.key.range![0], next.key.range![0]];
    return /^\s*$/.test(text.slice(ends, to)) ? [{ start: from, end: to, written: '' }] : null;
  }

  /** A section with a line for each entry; what stands behind it on its line stays. */
  private asLines(
    key: Node,
    value: Node,
    entries: readonly Entry[],
    isList: boolean,
  ): Splice[] | null {
    const { text } = this;
    const [start, end] = value.range!;
    const colon = /^\s*:/.exec(text.slice(key.range![1], start));
    const at = lineAfter(text, end);
    if (!colon || text.slice(key.range![1], start).includes('\n')) return null;
    if (!/^[ \t]*(?:#.*)?\r?$/.test(text.slice(end, at === null ? text.length : at - 1)))
      return null;
    const lines = entries
      .map(([name, item]) => linesFor(isList ? [item] : { [name]: item }, '  '))
      .join('');
    return [
      { start: key.range![1] + colon[0].length, end, written: '' },
      insertion(at ?? text.length, (at === null ? '\n' : '') + lines),
    ];
  }

  /** Where the line of an entry begins, with the spaces before it; null where something else stands before it. */
  private entryStart(
    parent: Collection,
    { key, value }: Child,
  ): { start: number; indentation: string } | null {
    if (hasProperties(key) || (!isMap(parent) && hasProperties(value))) return null;
    const start = this.lineStart(key.range![0]);
    const before = this.text.slice(start, key.range![0]);
    const found = (isMap(parent) ? /^( *)$/ : /^( *)- *$/).exec(before);
    return found ? { start, indentation: found[1]! } : null;
  }

  /** The spaces before the entries of a block; null where none of them tells. */
  private indentationOf(parent: Collection): string | null {
    for (let i = 0; i < parent.items.length; i++) {
      const { key } = itemAt(parent, i)!;
      const start = key.range![0];
      const before = hasProperties(key) ? '?' : this.text.slice(this.lineStart(start), start);
      const found = (isMap(parent) ? /^([- ]*)$/ : /^([- ]*)- *$/).exec(before);
      if (found) return ' '.repeat(found[1]!.length);
    }
    return null;
  }

  private lineStart(offset: number): number {
    return this.text.lastIndexOf('\n', offset - 1) + 1;
  }

  private whole(value: unknown): string {
    return this.isJson ? JSON.stringify(value) : inFlow(value);
  }

  /** One entry between braces or brackets. */
  private inline(entry: Record<string, unknown> | readonly [unknown]): string {
    return this.isJson ? JSON.stringify(entry).slice(1, -1) : entryInFlow(entry);
  }
}

/** Where the line begins that is behind the one in which an offset lies, or which ends there; null at the end of a text without one. */
function lineAfter(text: string, offset: number): number | null {
  // The end of a block is the beginning of the next line already.
  const end = text[offset - 1] === '\n' ? offset - 1 : text.indexOf('\n', offset);
  if (end !== -1) return end + 1;
  return text === '' || text.endsWith('\n') ? text.length : null;
}

const insertion = (at: number, written: string): Splice => ({ start: at, end: at, written });

/** An anchor or a tag stands before a value, outside of its range. */
const hasProperties = (node: Node | null): boolean =>
  node !== null && !isAlias(node) && (node.anchor !== undefined || node.tag !== undefined);

const isCollectionValue = (value: unknown): boolean =>
  (Array.isArray(value) || isRecord(value)) && Object.keys(value).length > 0;

const entriesOf = (value: unknown): (readonly [unknown] | Record<string, unknown>)[] =>
  Array.isArray(value)
    ? value.map((item: unknown) => [item] as const)
    : Object.entries(value as object).map(([name, item]) => ({ [name]: item as unknown }));

function itemAt(parent: Collection, index: number): Child | null {
  const item = parent.items[index];
  if (item === undefined) return null;
  if (isMap(parent)) {
    const { key, value } = parent.items[index]!;
    return { key: key as Node, value: value as Node | null, index };
  }
  return { key: item as Node, value: item as Node, index };
}

/** Where an entry ends. */
const endOfEntry = ({ key, value }: Child): number =>
  value?.range ? contentEnd(value) : key.range![1];

/** Where a value ends; the library counts the comments behind the last entry of a block to the block. */
function contentEnd(value: Node): number {
  if (!isCollection(value) || value.flow || value.items.length === 0) return value.range![1];
  return endOf(value);
}

/** Where the last entry of a map or list ends. */
const endOf = (parent: Collection): number => endOfEntry(itemAt(parent, parent.items.length - 1)!);
