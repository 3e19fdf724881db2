import { getIntersectionWords, JS, NFA, Words } from 'refa';

/** Characters that mean nothing else in any address. */
const PLAIN_WORD = /[A-Za-z0-9][A-Za-z0-9_~-]*(?:[.][A-Za-z0-9_~-]+)*/;
/** One that could match slashes, or needs other characters, is given them only where nothing else fits. */
const ANY_WORD = /[!-.0-~]+/;
const MOST_NODES = 5000;

/**
 * Words that the regular expression of a custom group matches, the shortest first.
 * @param most how many are wanted
 * @returns none where nothing that can stand in an address matches, or the expression is too large to tell
 */
export function wordsOfGroup(source: string, limit: number): string[] {
  try {
    const group = automatonOf(source);
    for (const allowed of [PLAIN_WORD, ANY_WORD]) {
      const words: string[] = [];
      for (const word of getIntersectionWords(group, automatonOf(allowed.source))) {
        if (words.push(Words.fromUnicodeToString(word)) === limit) break;
      }
      if (words.length > 0) return words;
    }
  } catch {
    // Too large, or with something that no automaton has: nobody needs an example that badly.
  }
  return [];
}

function automatonOf(source: string): NFA {
  const { expression, maxCharacter } = JS.Parser.fromLiteral({ source, flags: 'u' }).parse();
  const factory = new NFA.LimitedNodeFactory(MOST_NODES);
  return NFA.fromRegex(expression, { maxCharacter }, {}, factory);
}
