import { RE2JS } from 're2js';
import { canonicalPath, type CanonicalOptions } from '../address/canonical-path.ts';
import type { Group, Modifier, Part, Pattern } from '../model/pattern.ts';
import type { PatternProblem } from '../model/pattern-problem.ts';
import { escapePattern } from './escape.ts';
import { PatternSyntaxError } from './pattern-syntax-error.ts';

interface Token {
  readonly kind:
    'char' | 'escaped' | 'name' | 'regexp' | 'asterisk' | 'modifier' | '{' | '}' | 'end';
  readonly value: string;
  readonly offset: number;
}

/** Text in which no character means anything but itself. */
const PLAIN = /^[\w/.~-]+$/;
const NO_NAMES: readonly string[] = [];
const NAME = /[\p{ID_Start}$_][\p{ID_Continue}$_\u200c\u200d]*/uy;

/** “Tokenize a pattern string” of the URL Pattern Standard, with the strict policy. */
function tokenize(text: string): Token[] {
  const tokens: Token[] = [];
  let offset = 0;
  const add = (
    kind: Token['kind'],
    length: number,
    value = text.slice(offset, offset + length),
  ): void => {
    tokens.push({ kind, value, offset });
    offset += length;
  };
  while (offset < text.length) {
    const character = String.fromCodePoint(text.codePointAt(offset)!);
    if (character === '*') add('asterisk', 1);
    else if (character === '+' || character === '?') add('modifier', 1);
    else if (character === '{' || character === '}') add(character, 1);
    else if (character === '\\') {
      if (offset + 1 === text.length) {
        throw new PatternSyntaxError(offset, { code: 'backslash-at-end' });
      }
      const escaped = String.fromCodePoint(text.codePointAt(offset + 1)!);
      add('escaped', 1 + escaped.length, escaped);
    } else if (character === ':') {
      NAME.lastIndex = offset + 1;
      const name = NAME.exec(text)?.[0];
      if (!name) throw new PatternSyntaxError(offset, { code: 'name-expected' });
      add('name', 1 + name.length, name);
    } else if (character === '(') {
      const source = customGroup(text, offset);
      add('regexp', source.length + 2, source);
    } else add('char', character.length);
  }
  tokens.push({ kind: 'end', value: '', offset });
  return tokens;
}

function customGroup(text: string, open: number): string {
  let depth = 1;
  let at = open + 1;
  if (text[at] === '?') {
    throw new PatternSyntaxError(at, { code: 'group-begins-with-question-mark' });
  }
  for (; at < text.length && depth > 0; at++) {
    const character = text[at]!;
    if (character > '\u007f') {
      throw new PatternSyntaxError(at, { code: 'group-not-ascii', character });
    }
    if (character === '\\') at++;
    else if (character === ')') depth--;
    else if (character === '(') {
      depth++;
      if (text[at + 1] !== '?') {
        throw new PatternSyntaxError(at, { code: 'group-captures' });
      }
    }
  }
  if (depth > 0) throw new PatternSyntaxError(open, { code: 'group-open' });
  const source = text.slice(open + 1, at - 1);
  if (source === '') throw new PatternSyntaxError(open, { code: 'group-empty' });
  return source;
}

/** Returns the pattern that matches one path exactly. */
export const literalPattern = (path: string, options: CanonicalOptions = {}): Pattern =>
  parsePattern(escapePattern(path), options);

/**
 * Parses a pathname pattern by the WHATWG URL Pattern Standard
 * (“parse a pattern string”, delimiter and prefix code point `/`).
 *
 * Two things are stricter than the standard: a custom group must be a regular expression that runs
 * in linear time (RE2 syntax), and fixed text is brought to the canonical form of a path.
 *
 * @param text the pattern
 * @param options.ignoreCase the pattern is to match whatever the letter case
 * @param options.fold the pattern is to match folded and decomposed letters alike
 * @throws PatternSyntaxError with the offset and the problem
 */
export function parsePattern(text: string, options: CanonicalOptions = {}): Pattern {
  const ignoreCase = options.ignoreCase ?? false;
  if (PLAIN.test(text)) {
    const value = ignoreCase ? text.toLowerCase() : text;
    return { text, parts: [{ is: 'text', value, modifier: '' }], names: NO_NAMES, ignoreCase };
  }
  const tokens = tokenize(text);
  const parts: Part[] = [];
  const names: string[] = [];
  let position = 0;
  let pending = '';
  let nextNumber = 0;

  const take = (...kinds: Token['kind'][]): Token | null =>
    kinds.includes(tokens[position]!.kind) ? tokens[position++]! : null;

  const fixed = (value: string, offset: number): string => {
    const canonical = canonicalPath(value, options);
    if (canonical === null) {
      throw new PatternSyntaxError(offset, { code: 'malformed-escape', text: value });
    }
    return canonical;
  };

  const flush = (offset: number): void => {
    if (pending === '') return;
    parts.push({ is: 'text', value: fixed(pending, offset), modifier: '' });
    pending = '';
  };

  const takeText = (): string => {
    let value = '';
    for (let token = take('char', 'escaped'); token; token = take('char', 'escaped'))
      value += token.value;
    return value;
  };

  const addPart = (
    prefix: string,
    name: Token | null,
    matcher: Token | null,
    suffix: string,
    modifier: Modifier,
    offset: number,
  ): void => {
    if (!name && !matcher) {
      if (modifier === '') {
        pending += prefix;
        return;
      }
      flush(offset);
      if (prefix !== '') parts.push({ is: 'text', value: fixed(prefix, offset), modifier });
      return;
    }
    flush(offset);
    const is = groupKind(matcher);
    const label = name ? name.value : String(nextNumber++);
    if (names.includes(label)) {
      throw new PatternSyntaxError(name!.offset, { code: 'name-twice', name: label });
    }
    names.push(label);
    const source = is === 'regexp' ? linearSource(matcher!, ignoreCase) : '';
    parts.push({
      is,
      name: label,
      prefix: fixed(prefix, offset),
      suffix: fixed(suffix, offset),
      modifier,
      source,
    });
  };

  const takeModifier = (): Modifier => {
    const token = take('modifier', 'asterisk');
    return token ? (token.value as Modifier) : '';
  };

  while (tokens[position]!.kind !== 'end') {
    const start = tokens[position]!;
    const character = take('char');
    const name = take('name');
    const matcher = take('regexp') ?? (name ? null : take('asterisk'));
    if (name || matcher) {
      let prefix = character?.value ?? '';
      if (prefix !== '' && prefix !== '/') {
        pending += prefix;
        prefix = '';
      }
      flush(start.offset);
      addPart(prefix, name, matcher, '', takeModifier(), start.offset);
      continue;
    }
    const text = character ?? take('escaped');
    if (text) {
      pending += text.value;
      continue;
    }
    if (take('{')) {
      const prefix = takeText();
      const innerName = take('name');
      const innerMatcher = take('regexp') ?? (innerName ? null : take('asterisk'));
      const suffix = takeText();
      if (!take('}')) {
        const found = tokens[position]!;
        throw new PatternSyntaxError(found.offset, { code: 'brace-open' });
      }
      addPart(prefix, innerName, innerMatcher, suffix, takeModifier(), start.offset);
      continue;
    }
    throw misplaced(start);
  }
  flush(0);
  return { text, parts, names, ignoreCase };
}

function groupKind(matcher: Token | null): Group['is'] {
  if (!matcher) return 'segment';
  if (matcher.kind === 'asterisk' || matcher.value === '.*') return 'wildcard';
  return matcher.value === '[^\\/]+?' ? 'segment' : 'regexp';
}

const misplaced = ({ value, offset }: Token): PatternSyntaxError =>
  new PatternSyntaxError(
    offset,
    value === '?' ? { code: 'nothing-optional' } : { code: 'misplaced', character: value },
  );

/** Refuses a custom group whose time could grow faster than the address, or that RE2 reads otherwise. */
function linearSource({ value, offset }: Token, ignoreCase: boolean): string {
  const refuse = (problem: PatternProblem): PatternSyntaxError =>
    new PatternSyntaxError(offset + 1, problem);
  if (/\\[1-9]|\\k</.test(value)) {
    throw refuse({ code: 'back-reference' });
  }
  if (/\(\?(?:[=!]|<[=!])/.test(value)) {
    throw refuse({ code: 'lookaround' });
  }
  if (/\(\?(?!:)/.test(value)) throw refuse({ code: 'flags-in-group' });
  if (/\[[^\]]*(?:\[|&&|--)/.test(value)) {
    throw refuse({ code: 'combined-classes' });
  }
  try {
    new RegExp(value, ignoreCase ? 'vi' : 'v');
    RE2JS.compile(value);
  } catch (error) {
    throw refuse({ code: 'not-linear', source: value, detail: (error as Error).message });
  }
  return value;
}
