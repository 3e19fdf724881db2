/** What stands at a place of a site file, as far as completion and help need to know. */
export interface YamlContext {
  /** The names of what is around it, the outermost first; `*` for an item of a list. */
  readonly path: readonly string[];
  /** A name is written there; otherwise the value of the last name of the path. */
  readonly isName: boolean;
  /** What stands in the value before the place; empty where a name is written. */
  readonly before: string;
}

/** The beginning of a line: its indentation, dashes of lists, and a name where there is one. */
const LINE = /^( *)((?:- +)*)(?:("[^"]*"|'[^']*'|[^\s"'#[\]{},].*?) *:(?= |$))?/;

/**
 * Tells what stands at a place of a site file. Goes by indentation and brackets alone, so that a text that
 * is being typed, and is no YAML yet, is understood as well.
 *
 * @param offset the place, from 0
 * @returns null within a comment
 */
export function yamlContextAt(text: string, offset: number): YamlContext | null {
  const lines = text.slice(0, offset).split('\n');
  const line = lines.pop()!;
  if (/^\s*#/.test(line)) return null;
  const { column, dashes, name, rest } = startOf(line);
  const path = pathAbove(lines, column, dashes);
  if (name === null && !/^[[{]/.test(rest.trimStart()))
    return dashes.length > 0 && isValue(path)
      ? { path, isName: false, before: rest }
      : { path, isName: true, before: '' };
  return within(name === null ? path : [...path, name], rest);
}

/** An item of a list is a value where the list is one of texts; only what is below a name can tell. */
const isValue = (path: readonly string[]): boolean => path.at(-1) === '*' && path.length > 2;

interface LineStart {
  /** Where the name or the value begins. */
  readonly column: number;
  /** Where dashes of lists are. */
  readonly dashes: readonly number[];
  readonly name: string | null;
  /** What stands behind the colon, or behind the dashes. */
  readonly rest: string;
}

function startOf(line: string): LineStart {
  const [whole, indentation = '', marks = '', name] = LINE.exec(line)!;
  const start = indentation.length;
  return {
    column: start + marks.length,
    dashes: [...marks.matchAll(/-/g)].map(({ index }) => start + index),
    name: name === undefined ? null : name.replace(/^["']|["']$/g, ''),
    rest: line.slice(whole.length),
  };
}

/** The names of what is around a line, by the lines above that are indented less. */
function pathAbove(lines: readonly string[], column: number, dashes: readonly number[]): string[] {
  const path: string[] = [];
  let limit = column;
  const leave = (marks: readonly number[]): void => {
    for (const dash of [...marks].reverse())
      if (dash < limit) {
        path.unshift('*');
        // The name of a list may stand in the same column as its dashes.
        limit = dash + 0.5;
      }
  };
  leave(dashes);
  for (let i = lines.length - 1; i >= 0 && limit > 0; i--) {
    const line = lines[i]!;
    if (/^\s*(?:#|$)/.test(line)) continue;
    const start = startOf(line);
    if (start.name !== null && start.column < limit) {
      path.unshift(start.name);
      limit = start.column;
    } else if (start.column >= limit && !start.dashes.some((dash) => dash < limit)) continue;
    leave(start.dashes);
  }
  return path;
}

/** What stands at the end of a value that may hold braces and brackets; null for a comment behind it. */
function within(path: readonly string[], value: string): YamlContext | null {
  const open: { readonly is: '{' | '['; name: string | null }[] = [];
  let word = '';
  let quote = '';
  for (const [i, character] of value.split('').entries()) {
    const frame = open.at(-1);
    const isColon =
      character === ':' && (/["']$/.test(word) || /^(?: |$)/.test(value.slice(i + 1)));
    if (quote !== '') {
      if (character === quote) quote = '';
      word += character;
    } else if (character === '#' && /(?:^|\s)$/.test(value.slice(0, i))) return null;
    else if (character === '"' || character === "'") {
      quote = character;
      word += character;
    } else if ((character === '{' || character === '[') && (word.trim() === '' || frame)) {
      open.push({ is: character, name: null });
      word = '';
    } else if ((character === '}' || character === ']') && frame) {
      open.pop();
      word = '';
    } else if (character === ',' && frame) {
      frame.name = null;
      word = '';
    } else if (isColon && frame?.is === '{' && frame.name === null) {
      frame.name = word.trim().replace(/^["']|["']$/g, '');
      word = '';
    } else word += character;
  }
  const names = open.flatMap(({ is, name }) => (is === '[' ? ['*'] : name === null ? [] : [name]));
  const last = open.at(-1);
  const isName = last?.is === '{' && last.name === null;
  return { path: [...path, ...names], isName, before: isName ? '' : word.trimStart() };
}

/** The entries of a section, each with the text behind its name. */
export function entriesIn(text: string, section: string): Map<string, string> {
  const entries = new Map<string, string>();
  const lines = text.split('\n');
  const start = lines.findIndex((line) => line.startsWith(`${section}:`));
  if (start === -1) return entries;
  // What stands in braces within the entries is not theirs.
  const inline = lines[start]!.slice(section.length + 1).replace(/(?<=\{.*)\{[^{}]*\}/g, '');
  for (const [, name, value] of inline.matchAll(/[{,]\s*("[^"]*"|[^\s{},:"]+)\s*:\s*([^,}]*)/g))
    entries.set(name!.replace(/"/g, ''), value!.trim());
  let indentation: number | null = null;
  for (const line of lines.slice(start + 1)) {
    if (/^\s*(?:#|$)/.test(line)) continue;
    const { column, name, rest } = startOf(line);
    if (column === 0) break;
    indentation ??= column;
    if (column === indentation && name !== null) entries.set(name, rest.trim());
  }
  return entries;
}
