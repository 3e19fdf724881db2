import { ConditionSyntaxError } from './condition-syntax-error.ts';

/** One token of a condition, with where it stands in the text. */
export interface Token {
  readonly kind: 'word' | 'string' | 'number' | 'date' | 'operator' | 'punctuation' | 'end';
  readonly text: string;
  readonly offset: number;
  /** Where it ends, quotes included. */
  readonly end: number;
}

const TOKEN =
  /\s+|(\d{4}-\d{2}-\d{2}(?:T[\d:]+(?:Z|[+-]\d\d:\d\d)?)?)|(-?\d+(?:\.\d+)?(?![\w-]))|([\p{L}_\d][\p{L}\p{N}_-]*(?:\.[\p{L}_][\p{L}\p{N}_-]*)?)|("(?:[^"\\]|\\.)*"|'(?:[^'\\]|\\.)*')|(<=|>=|!=|[=<>])|([()[\],])/uy;

/**
 * Splits a condition into tokens.
 *
 * @throws ConditionSyntaxError at the first character that fits no token
 */
export function tokenize(text: string): Token[] {
  const tokens: Token[] = [];
  TOKEN.lastIndex = 0;
  let offset = 0;
  while (offset < text.length) {
    TOKEN.lastIndex = offset;
    const match = TOKEN.exec(text);
    if (!match) throw stranger(text, offset);
    const [whole, date, number, word, string, operator, punctuation] = match;
    const end = offset + whole.length;
    const add = (kind: Token['kind'], text: string): void =>
      void tokens.push({ kind, text, offset, end });
    if (date !== undefined) add('date', date);
    else if (number !== undefined) add('number', number);
    else if (word !== undefined) add('word', word);
    else if (string !== undefined) add('string', unquote(string));
    else if (operator !== undefined) add('operator', operator);
    else if (punctuation !== undefined) add('punctuation', punctuation);
    offset = end;
  }
  tokens.push({ kind: 'end', text: '', offset: text.length, end: text.length });
  return tokens;
}

/** What is written for the operators of programming languages. */
const WORDS: readonly [RegExp, string][] = [
  [/^&&?/, 'and'],
  [/^\|\|?/, 'or'],
  [/^!/, 'not'],
];

function stranger(text: string, offset: number): ConditionSyntaxError {
  const rest = text.slice(offset);
  if (/^["']/.test(rest))
    return new ConditionSyntaxError(offset, { code: 'quote-open', quote: rest[0]! });
  const word = WORDS.find(([operator]) => operator.test(rest))?.[1] ?? null;
  const character = String.fromCodePoint(rest.codePointAt(0)!);
  return new ConditionSyntaxError(offset, { code: 'foreign-character', character, word });
}

function unquote(quoted: string): string {
  return quoted.slice(1, -1).replace(/\\(.)/gs, '$1');
}
