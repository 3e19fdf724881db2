import { isMap, isScalar, isSeq, LineCounter, type Node, type Pair, type YAMLMap } from 'yaml';
import { ERROR_CODES, type SiteError, type SiteProblem } from '../../model/site-error.ts';
import { parseYaml } from './parse-yaml.ts';
import type { SourceLocation } from '../../model/source-location.ts';

/** The way to a value in a site file: `['gates', 'crew-room', 'otherwise', 0, 'do']`. */
export type YamlPath = readonly (string | number)[];

/** Larger files are refused before they are read. */
export const MAX_FILE_LENGTH = 32 * 1024 * 1024;

/** A site file as YAML: its values, and where each of them stands. */
export interface SiteDocument extends Places {
  readonly value: unknown;
  readonly errors: readonly SiteError[];
}

/** Where the values of a file stand. */
export interface Places {
  /** Where a value stands; the nearest thing above it when it is not there. */
  valueAt(path: YamlPath): SourceLocation;
  /** Where the key of a value stands. */
  keyAt(path: YamlPath): SourceLocation;
  /** Where the character at `offset` of a text value stands. */
  within(path: YamlPath, offset: number): SourceLocation;
}

/** Reads YAML 1.2 (and so JSON). Syntax errors are listed, and the rest is read all the same. */
export function readDocument(text: string, file: string): SiteDocument {
  const lines = new LineCounter();
  // The library's own test for keys that stand twice compares each with all others.
  const document = parseYaml(text, {
    lineCounter: lines,
    version: '1.2',
    prettyErrors: false,
    uniqueKeys: false,
  });
  const errors: SiteError[] = [];
  const complain = (offset: number, problem: SiteProblem): void => {
    const { line, col: column } = lines.linePos(offset);
    errors.push({ code: 'yaml', file, line, column, problem });
  };
  for (const { message, pos } of document.errors)
    complain(pos[0], { code: 'not-yaml', detail: message });
  // The library's own way of visiting takes longer than all of its reading.
  const findTwice = (node: unknown): void => {
    if (isSeq(node)) node.items.forEach(findTwice);
    if (!isMap<Node, Node | null>(node)) return;
    const seen = new Set<string>();
    for (const { key, value } of node.items) {
      const name = isScalar(key) ? String(key.value) : '';
      if (seen.has(name)) complain(key.range?.[0] ?? 0, { code: 'key-twice', name });
      seen.add(name);
      findTwice(key);
      findTwice(value);
    }
  };
  findTwice(document.contents);
  let value: unknown = null;
  try {
    // An alias within what it stands for would make a value without end.
    if (!document.errors.some(({ code }) => code === 'BAD_ALIAS'))
      value = document.toJS({ maxAliasCount: 100 });
  } catch (error) {
    complain(0, { code: 'too-many-aliases', detail: (error as Error).message });
  }

  const pairs = new WeakMap<YAMLMap, Map<string, Pair<Node, Node | null>>>();
  const pairOf = (map: YAMLMap, key: string): Pair<Node, Node | null> | undefined => {
    let known = pairs.get(map);
    if (!known) {
      known = new Map();
      for (const pair of map.items as Pair<Node, Node | null>[]) {
        if (isScalar(pair.key)) known.set(String(pair.key.value), pair);
      }
      pairs.set(map, known);
    }
    return known.get(key);
  };

  const nodesTo = (path: YamlPath): { key: Node | null; node: Node | null; isWhole: boolean } => {
    let node: Node | null = document.contents;
    let key: Node | null = null;
    for (const step of path) {
      const pair = isMap(node) ? pairOf(node, String(step)) : undefined;
      const item =
        isSeq(node) && typeof step === 'number'
          ? (node.items[step] as Node | undefined)
          : undefined;
      if (!pair && !item) return { key, node, isWhole: false };
      key = pair ? pair.key : item!;
      node = pair ? pair.value : item!;
    }
    return { key, node, isWhole: true };
  };

  const placeOf = (node: Node | null | undefined): SourceLocation => {
    const { line, col } = lines.linePos(node?.range?.[0] ?? 0);
    return { line, column: col };
  };

  return {
    value,
    errors,
    valueAt: (path) => {
      const { key, node } = nodesTo(path);
      return placeOf(node ?? key);
    },
    keyAt: (path) => placeOf(nodesTo(path).key),
    within: (path, offset) => {
      const { node, key, isWhole } = nodesTo(path);
      const start = placeOf(node ?? key);
      if (
        !isWhole ||
        !isScalar(node) ||
        node.type === 'BLOCK_FOLDED' ||
        node.type === 'BLOCK_LITERAL'
      )
        return start;
      const isQuoted = node.type === 'QUOTE_DOUBLE' || node.type === 'QUOTE_SINGLE';
      const { line, col } = lines.linePos((node.range?.[0] ?? 0) + offset + (isQuoted ? 1 : 0));
      return { line, column: col };
    },
  };
}

/** Collects errors of a site file with their places. */
export class ErrorList {
  readonly errors: SiteError[];

  constructor(
    private readonly file: string,
    errors: readonly SiteError[],
    private readonly places: Places,
  ) {
    this.errors = [...errors];
  }

  /** Adds a problem where it is. */
  add(place: SourceLocation, problem: SiteProblem): void {
    this.errors.push({ code: ERROR_CODES[problem.code], file: this.file, ...place, problem });
  }

  /** Adds a problem where a value is; where the nearest above it is when there is none. */
  atValue(path: YamlPath, problem: SiteProblem): void {
    this.add(this.places.valueAt(path), problem);
  }

  /** Adds a problem where the key of a value is. */
  atKey(path: YamlPath, problem: SiteProblem): void {
    this.add(this.places.keyAt(path), problem);
  }

  /** Adds a problem where the character at `offset` of a text value is. */
  within(path: YamlPath, offset: number, problem: SiteProblem): void {
    this.add(this.places.within(path, offset), problem);
  }
}
