import { isAlias, isCollection, isMap, type Document, type Node } from 'yaml';
import { isRecord } from '../../model/plain-value.ts';
import { entryInFlow, inFlow, linesFor } from '../yaml/yaml-lines.ts';
import { childOf, nodeAt, type Child, type Collection } from '../yaml/yaml-pointer.ts';

/** A replacement in a text. */
export interface Splice {
  readonly start: number;
  readonly end: number;
  readonly written: string;
}

export type Entry = readonly [name: string, value: unknown];
export type Adding = (entries: readonly Entry[]) => Splice[];

/** A longer flow section is rewritten with one line for each entry. */
const LONGEST_SECTION = 100;

/** Plans changes at single places of a file, so that everything else stays the same. */
export class Places {
  private readonly isJson: boolean;

  constructor(
    private readonly text: string,
    private readonly document: Document,
  ) {
    this.isJson = nodeAt(document, [])?.flow === true;
  }

  /** Returns a function that adds entries at the end of a map or list. Null if there is no simple place. */
  adding(above: readonly string[]): Adding | null {
    const { text, document } = this;
    if (above.length === 0 && document.contents === null) {
      const open = text === '' || text.endsWith('\n') ? '' : '\n';
      return (entries) => [
        insertion(
          text.length,
          open + entries.map((one) => linesFor(inMap(one), '', true)).join(''),
        ),
      ];
    }
    const parent = nodeAt(document, above);
    if (!parent) return null;
    if (parent.flow) return this.addingToFlow(parent, above);
    const indentation = parent.items.length === 0 ? null : this.indentationOf(parent);
    if (indentation === null) return null;
    const end = endOf(parent);
    const at = lineAfter(text, end);
    // Sections have an empty line between them, if others have.
    const space = above.length === 0 && /\n\r?\n/.test(text) ? '\n' : '';
    const isSection = above.length === 0;
    const asEntry = isMap(parent) ? inMap : inList;
    return (entries) => {
      const lines = entries
        .map((one) => space + linesFor(asEntry(one), indentation, isSection))
        .join('');
      return [insertion(at ?? text.length, (at === null ? '\n' : '') + lines)];
    };
  }

  private addingToFlow(parent: Collection, above: readonly string[]): Adding | null {
    const { text } = this;
    const [start, end] = parent.range!;
    const asEntry = isMap(parent) ? inMap : inList;
    const written = (entries: readonly Entry[], between: string): string =>
      entries.map((one) => this.inline(asEntry(one))).join(`,${between}`);
    const asLines = (entries: readonly Entry[]): Splice[] | null => {
      const own =
        this.isJson || above.length !== 1 ? null : childOf(nodeAt(this.document, [])!, above[0]!);
      if (!own || text.slice(start, end).includes('\n')) return null;
      const known = parent.toJS(this.document) as object;
      const all: Entry[] = [...Object.entries(known), ...entries];
      return this.asLines(own.key, parent, all.map(asEntry));
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

  /** The white space after the commas of a flow map or list. */
  private betweenIn(parent: Collection): string {
    const { text } = this;
    const [first, second] = [0, 1].map((index) => itemAt(parent, index));
    const gap = second
      ? /^\s*,(\s*)$/.exec(text.slice(endOfEntry(first!), second.key.range![0]))
      : /^.(\s*\n\s*)$/.exec(text.slice(parent.range![0], first!.key.range![0]));
    return gap?.[1]?.replaceAll('\r', '') ?? ' ';
  }

  /** Inserts an item before another item of a list. */
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

  /** Replaces the value of an entry. */
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
        return this.asLines(key, value, entriesOf(next));
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
    // A list may have the same indentation as its key. A map must be indented more.
    const isDeeper = isItem || indentation.length > (this.indentationOf(parent) ?? '').length;
    if (isFull && isDeeper) {
      const lines = entriesOf(next)
        .map((entry) => linesFor(entry, indentation))
        .join('');
      return [{ start, end, written: lines.slice(indentation.length, lineBreak ? undefined : -1) }];
    }
    // Without a comment in between, the value stands behind the name.
    const from = gap ? start - gap[1]!.length : start;
    return [{ start: from, end, written: `${isItem ? '' : ' '}${this.whole(next)}${lineBreak}` }];
  }

  /** Removes an entry. Comments above it stay. */
  removing(parent: Collection, child: Child, above: readonly string[]): Splice[] | null {
    const { text } = this;
    const count = parent.items.length;
    const ends = endOfEntry(child);
    if (count === 1) {
      const [start, end] = parent.range!;
      const empty = isMap(parent) ? {} : [];
      if (!parent.flow) {
        const outer = above.slice(0, -1);
        const around = nodeAt(this.document, outer);
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
    // The first entry of a map after a dash is replaced by the second.
    const next = itemAt(parent, child.index + 1);
    if (child.index > 0 || !next) return null;
    const [from, to] = [child.key.range![0], next.key.range![0]];
    return /^\s*$/.test(text.slice(ends, to)) ? [{ start: from, end: to, written: '' }] : null;
  }

  /** Writes a section with one line for each entry. A comment on the line of its key stays. */
  private asLines(key: Node, value: Node, entries: readonly Written[]): Splice[] | null {
    const { text } = this;
    const [start, end] = value.range!;
    const colon = /^\s*:/.exec(text.slice(key.range![1], start));
    const at = lineAfter(text, end);
    if (!colon || text.slice(key.range![1], start).includes('\n')) return null;
    if (!/^[ \t]*(?:#.*)?\r?$/.test(text.slice(end, at === null ? text.length : at - 1)))
      return null;
    const lines = entries.map((one) => linesFor(one, '  ')).join('');
    return [
      { start: key.range![1] + colon[0].length, end, written: '' },
      insertion(at ?? text.length, (at === null ? '\n' : '') + lines),
    ];
  }

  /** The start of an entry's line and its indentation. Null if the line has something else before the entry. */
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

  /** The indentation of a block's entries. Null if no entry shows it. */
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
  private inline(entry: Written): string {
    return this.isJson ? JSON.stringify(entry).slice(1, -1) : entryInFlow(entry);
  }
}

/** The start of the next line after an offset. Null in the last line if it has no line break. */
export function lineAfter(text: string, offset: number): number | null {
  // A block ends at the start of the next line.
  const end = text[offset - 1] === '\n' ? offset - 1 : text.indexOf('\n', offset);
  if (end !== -1) return end + 1;
  return text === '' || text.endsWith('\n') ? text.length : null;
}

const insertion = (at: number, written: string): Splice => ({ start: at, end: at, written });

/** Whether a node has an anchor or a tag. Both stand outside the range of the node. */
const hasProperties = (node: Node | null): boolean =>
  node !== null && !isAlias(node) && (node.anchor !== undefined || node.tag !== undefined);

const isCollectionValue = (value: unknown): boolean =>
  (Array.isArray(value) || isRecord(value)) && Object.keys(value).length > 0;

/** An entry as the library writes it: a map or a list with this entry alone. */
type Written = Record<string, unknown> | readonly [unknown];
const inMap = ([name, value]: Entry): Written => ({ [name]: value });
const inList = ([, value]: Entry): Written => [value];

const entriesOf = (value: unknown): Written[] =>
  Object.entries(value as object).map(Array.isArray(value) ? inList : inMap);

function itemAt(parent: Collection, index: number): Child | null {
  const item = parent.items[index];
  if (item === undefined) return null;
  if (isMap(parent)) {
    const { key, value } = parent.items[index]!;
    return { key: key as Node, value: value as Node | null, index };
  }
  return { key: item as Node, value: item as Node, index };
}

/** The end of an entry. */
export const endOfEntry = ({ key, value }: Child): number =>
  value?.range ? contentEnd(value) : key.range![1];

/** The end of a value. The library's range of a block includes the comments after its last entry. */
function contentEnd(value: Node): number {
  if (!isCollection(value) || value.flow || value.items.length === 0) return value.range![1];
  return endOf(value);
}

/** The end of the last entry of a map or list. */
const endOf = (parent: Collection): number => endOfEntry(itemAt(parent, parent.items.length - 1)!);
