import { RESERVED_WORDS } from './vocabulary.ts';
import { printName } from './print.ts';
import { ConditionSyntaxError } from './condition-syntax-error.ts';
import { tokenize, type Token } from './tokens.ts';

/** What a condition can name. */
export type NamedKind = 'role' | 'group' | 'person' | 'product' | 'audience';

const LEADS: Readonly<Record<string, NamedKind>> = {
  role: 'role',
  group: 'group',
  person: 'person',
  bought: 'product',
  lapsed: 'product',
  paused: 'product',
  refunded: 'product',
};

/**
 * Renames something in the text of a condition. The rest of the text stays as it is.
 * @returns the text unchanged where it can't be read or does not name it
 */
export function renameInCondition(text: string, kind: NamedKind, name: string, to: string): string {
  let tokens: Token[];
  try {
    tokens = tokenize(text);
  } catch (error) {
    if (error instanceof ConditionSyntaxError) return text;
    throw error;
  }
  const named = tokens.filter(
    (token, i) => token.text === name && kindOf(token, tokens[i - 1], tokens[i + 1]) === kind,
  );
  return named.reduceRight(
    (before, { offset, end }) => before.slice(0, offset) + printName(to) + before.slice(end),
    text,
  );
}

function kindOf(
  token: Token,
  before: Token | undefined,
  after: Token | undefined,
): NamedKind | null {
  if (!['word', 'string', 'number'].includes(token.kind)) return null;
  const lead = before?.kind === 'word' ? LEADS[before.text] : undefined;
  if (lead) return lead;
  if (token.kind !== 'word' || RESERVED_WORDS.has(token.text) || token.text.includes('.'))
    return null;
  const isCompared = after?.kind === 'operator' || (after?.kind === 'word' && after.text === 'in');
  return isCompared ? null : 'audience';
}
