import { RE2JS } from 're2js';
import { canonicalPath, type CanonicalOptions } from '../address/canonical-path.ts';
import type { Group, Modifier, Part, Pattern } from '../model/pattern.ts';
import { PatternProblem } from './pattern-problem.ts';

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
        throw new PatternProblem(
          offset,
          'A backslash ends the pattern.',
          'Write \\\\ for a backslash.',
        );
      }
      const escaped = String.fromCodePoint(text.codePointAt(offset + 1)!);
      add('escaped', 1 + escaped.length, escaped);
    } else if (character === ':') {
      NAME.lastIndex = offset + 1;
      const name = NAME.exec(text)?.[0];
      if (!name)
        throw new PatternProblem(
          offset,
          'A colon wants a name after it.',
          'Write \\: for a colon.',
        );
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
    throw new PatternProblem(
      at,
      'A custom group can\'t begin with "?".',
      'Write \\? for a question mark.',
    );
  }
  for (; at < text.length && depth > 0; at++) {
    const character = text[at]!;
    if (character > '\u007f') {
      throw new PatternProblem(
        at,
        `A custom group takes ASCII only, and found "${character}".`,
        'Percent-encode it.',
      );
    }
    if (character === '\\') at++;
    else if (character === ')') depth--;
    else if (character === '(') {
      depth++;
      if (text[at + 1] !== '?') {
        throw new PatternProblem(
          at,
          "A custom group can't capture inside itself.",
          'Write (?: for the inner group.',
        );
      }
    }
  }
  if (depth > 0) throw new PatternProblem(open, 'A custom group is not closed.', 'Add ")".');
  const source = text.slice(open + 1, at - 1);
  if (source === '')
    throw new PatternProblem(open, 'A custom group is empty.', 'Write a regular expression in it.');
  return source;
}

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
 * @throws PatternProblem with the offset, what is wrong and what would be right
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
      throw new PatternProblem(offset, `"${value}" holds a malformed escape.`, 'Write % as %25.');
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
      throw new PatternProblem(
        name!.offset,
        `":${label}" stands twice in this pattern.`,
        'Give one of the two another name.',
      );
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
        throw new PatternProblem(
          found.offset,
          'A brace is not closed, or holds more than one group.',
          'Add "}".',
        );
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

function misplaced({ value, offset }: Token): PatternProblem {
  if (value === '?') {
    return new PatternProblem(
      offset,
      '"?" says that what stands before it may be left out, and there is no group before it.',
      'Write \\? for a question mark, or { } around what may be left out. A query is no part of a pattern.',
    );
  }
  return new PatternProblem(
    offset,
    `"${value}" can't stand here.`,
    `Write \\${value} for the character itself.`,
  );
}

/** Refuses a custom group whose time could grow faster than the address, or that RE2 reads otherwise. */
function linearSource({ value, offset }: Token, ignoreCase: boolean): string {
  const refuse = (message: string, remedy: string): PatternProblem =>
    new PatternProblem(offset + 1, message, remedy);
  if (/\\[1-9]|\\k</.test(value)) {
    throw refuse(
      "A custom group with a back reference can't be matched in time linear in the address.",
      'Spell out what may stand there.',
    );
  }
  if (/\(\?(?:[=!]|<[=!])/.test(value)) {
    throw refuse(
      "A custom group that looks ahead or behind can't be matched in time linear in the address.",
      'Write two patterns, or a condition.',
    );
  }
  if (/\(\?(?!:)/.test(value))
    throw refuse('A custom group takes no flags or names inside.', 'Write (?: instead.');
  if (/\[[^\]]*(?:\[|&&|--)/.test(value)) {
    throw refuse(
      "Character classes can't be combined in a custom group.",
      'List the characters in one class.',
    );
  }
  try {
    new RegExp(value, ignoreCase ? 'vi' : 'v');
    RE2JS.compile(value);
  } catch (error) {
    throw refuse(
      `"${value}" is no regular expression that runs in linear time: ${(error as Error).message}.`,
      'Use the syntax that JavaScript and RE2 share.',
    );
  }
  return value;
}
