import type { Condition, Operator, Value } from '../model/condition.ts';
import { ConditionSyntaxError } from './condition-syntax-error.ts';
import { tokenize, type Token } from './tokens.ts';
import { RESERVED_WORDS } from './vocabulary.ts';
import { nearest } from '../text/nearest.ts';

const SIMPLE: readonly string[] = ['anyone', 'nobody', 'guest', 'signed-in'];
const NAMED: readonly string[] = ['role', 'group', 'person'];
const VALUE = /^(visitor|path|query)\.(.+)$/u;
const MAX_DEPTH = 100;

/**
 * Parses a condition.
 *
 * ```
 * condition = or-part *( "or" or-part )       or-part = and-part *( "and" and-part )
 * and-part  = "not" and-part | "(" condition ")" | atom
 * ```
 *
 * Names are not looked up here: whether a role or an audience exists, the reader of the site file says.
 * @throws ConditionSyntaxError with the offset and the problem
 */
export function parseCondition(text: string): Condition {
  const tokens = tokenize(text);
  let position = 0;
  let depth = 0;

  const peek = (): Token => tokens[position]!;
  const take = (): Token => tokens[position++]!;
  const isWord = (word: string): boolean => peek().kind === 'word' && peek().text === word;

  function joined(word: 'or' | 'and', part: () => Condition): Condition {
    const parts = [part()];
    while (isWord(word)) {
      take();
      parts.push(part());
    }
    if (parts.length === 1) return parts[0]!;
    return { is: word, of: parts.flatMap((one) => (one.is === word ? one.of : [one])) };
  }

  const condition = (): Condition => joined('or', () => joined('and', andPart));

  function andPart(): Condition {
    if (++depth > MAX_DEPTH) {
      throw new ConditionSyntaxError(peek().offset, { code: 'too-deep', limit: MAX_DEPTH });
    }
    const parsed = notParenthesisOrAtom();
    depth--;
    return parsed;
  }

  function notParenthesisOrAtom(): Condition {
    if (isWord('not')) {
      take();
      return { is: 'not', of: andPart() };
    }
    if (peek().text === '(' && peek().kind === 'punctuation') {
      const open = take();
      const inner = condition();
      if (peek().text !== ')') {
        throw new ConditionSyntaxError(open.offset, { code: 'parenthesis-open' });
      }
      take();
      return inner;
    }
    return atom();
  }

  function atom(): Condition {
    const first = peek();
    const next = tokens[position + 1];
    const isComparison = next?.kind === 'operator' || (next?.kind === 'word' && next.text === 'in');
    if (
      first.kind !== 'word' ||
      VALUE.test(first.text) ||
      first.text === 'language' ||
      isComparison
    ) {
      return comparison();
    }
    take();
    if (SIMPLE.includes(first.text)) return { is: first.text as 'anyone' };
    if (NAMED.includes(first.text)) return { is: first.text as 'role', name: name(first.text) };
    if (first.text === 'bought')
      return { is: 'bought', product: name('bought'), state: 'in-force' };
    if (first.text === 'lapsed' || first.text === 'paused' || first.text === 'refunded')
      return { is: 'bought', product: name(first.text), state: first.text };
    if (first.text === 'ever') {
      if (!isWord('bought')) {
        throw new ConditionSyntaxError(peek().offset, { code: 'ever-alone' });
      }
      take();
      return { is: 'bought', product: name('ever bought'), state: 'ever' };
    }
    if (RESERVED_WORDS.has(first.text)) throw expectedCondition(first);
    return { is: 'audience', name: first.text };
  }

  function name(after: string): string {
    const token = peek();
    if (token.kind !== 'word' && token.kind !== 'string' && token.kind !== 'number') {
      throw new ConditionSyntaxError(token.offset, { code: 'name-expected', after, found: null });
    }
    if (token.kind === 'word' && ['and', 'or', 'not'].includes(token.text)) {
      throw new ConditionSyntaxError(token.offset, {
        code: 'name-expected',
        after,
        found: token.text,
      });
    }
    return take().text;
  }

  function comparison(): Condition {
    const first = peek();
    if (first.kind === 'end' || first.kind === 'operator') throw expectedCondition(first);
    const left = value();
    const operator = take();
    if (operator.kind !== 'operator' && !(operator.kind === 'word' && operator.text === 'in')) {
      throw new ConditionSyntaxError(operator.offset, { code: 'value-alone', text: first.text });
    }
    const right = value();
    if (operator.text === 'in' && right.is !== 'list' && right.is !== 'visitor') {
      throw new ConditionSyntaxError(operator.offset, { code: 'list-expected' });
    }
    if (left.is === 'list' || (right.is === 'list' && operator.text !== 'in')) {
      throw new ConditionSyntaxError(operator.offset, {
        code: 'list-compared',
        operator: operator.text,
      });
    }
    return { is: 'compare', left, operator: operator.text as Operator, right };
  }

  function value(): Value {
    const token = take();
    if (token.kind === 'string') return { is: 'string', value: token.text };
    if (token.kind === 'number') return { is: 'number', value: Number(token.text) };
    if (token.kind === 'date') return { is: 'date', text: token.text };
    if (token.text === '[') return list(token);
    if (token.kind === 'word') {
      if (token.text === 'language') return { is: 'language' };
      const match = VALUE.exec(token.text);
      if (match) return { is: match[1] as 'visitor', name: match[2]! };
      const [head] = token.text.split('.');
      const near = token.text.includes('.') ? nearest(head!, ['visitor', 'path', 'query']) : null;
      throw new ConditionSyntaxError(token.offset, {
        code: 'not-a-named-value',
        text: token.text,
        meant: near && `${near}.${token.text.slice(head!.length + 1)}`,
      });
    }
    throw new ConditionSyntaxError(
      token.offset,
      token.kind === 'end' ? { code: 'value-expected' } : { code: 'not-a-value', text: token.text },
    );
  }

  function list(open: Token): Value {
    const of: Value[] = [];
    while (peek().text !== ']') {
      if (peek().kind === 'end') {
        throw new ConditionSyntaxError(open.offset, { code: 'list-open' });
      }
      of.push(value());
      if (peek().text === ',') take();
    }
    take();
    return { is: 'list', of };
  }

  const parsed = condition();
  const rest = peek();
  if (rest.kind !== 'end') {
    throw new ConditionSyntaxError(rest.offset, { code: 'surplus', text: rest.text });
  }
  return parsed;
}

const expectedCondition = ({ kind, offset, text }: Token): ConditionSyntaxError =>
  new ConditionSyntaxError(
    offset,
    kind === 'end' ? { code: 'ends-too-early' } : { code: 'misplaced', text },
  );
