import { Lexer } from 'yaml';

/** A comment of a YAML file. */
export interface Comment {
  readonly offset: number;
  readonly text: string;
}

/** The comments of a YAML file. */
export function commentsOf(yaml: string): Comment[] {
  if (!yaml.includes('#')) return [];
  const comments: Comment[] = [];
  let offset = 0;
  let isScalar = false;
  for (const token of new Lexer().lex(yaml)) {
    // The lexer marks where documents and scalars begin by characters of its own.
    if (token === '\u{02}' || token === '\u{18}' || token === '\u{1f}') {
      isScalar = token === '\u{1f}';
      continue;
    }
    if (token.startsWith('#') && !isScalar) comments.push({ offset, text: token.trimEnd() });
    offset += token.length;
    isScalar = false;
  }
  return comments;
}
