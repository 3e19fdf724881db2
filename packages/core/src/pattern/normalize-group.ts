import { RegExpParser, visitRegExpAST } from '@eslint-community/regexpp';
import { canonicalPath, encodePathText } from '../address/canonical-path.ts';
import type { Tidy } from '../model/tidy.ts';
import { PatternSyntaxError } from './pattern-syntax-error.ts';

/** What becomes the word separator, by the separator that is wanted: as it stands in a canonical path. */
const REPLACED = { '-': ['_', '+', '%20'], _: ['-', '+', '%20'], keep: [] } as const;
const SPECIAL = /[\\^$.*+?()[\]{}|/]/g;
const literally = (text: string): string => text.replace(SPECIAL, '\\$&');

/**
 * Rewrites the regular expression of a custom group so that it matches the form in which requests come:
 * canonical escapes, one word separator. Each character becomes what a request has in its place.
 * @throws PatternSyntaxError where it holds a malformed escape
 */
export function normalizeGroupSource(source: string, words: Tidy['words']): string {
  const replaced: readonly string[] = REPLACED[words];
  const inPath = (text: string): string => {
    const canonical = encodePathText(text);
    return replaced.includes(canonical) ? words : canonical;
  };
  const escaped = withCanonicalEscapes(source, inPath);
  const edits: { start: number; end: number; text: string }[] = [];
  const classes: { start: number; end: number }[] = [];
  const separators = replaced.filter((one) => one.length === 1);
  const asSet = (
    node: { start: number; end: number; raw: string },
    alternatives: string[],
  ): void => {
    const set = new RegExp(`^${node.raw}$`, 'v');
    const lacks = separators.some((one) => set.test(one)) && !set.test(words);
    const also = lacks ? [...alternatives, literally(words)] : alternatives;
    if (also.length > 0)
      edits.push({ ...node, text: `(?:${[node.raw, ...new Set(also)].join('|')})` });
  };
  visitRegExpAST(
    new RegExpParser().parsePattern(escaped, 0, escaped.length, { unicodeSets: true }),
    {
      onCharacterClassEnter: (node) => {
        classes.push(node);
        const listed = node.negate
          ? []
          : node.elements.flatMap((one) => (one.type === 'Character' ? [one.value] : []));
        const alternatives = listed
          .map((value) => String.fromCodePoint(value))
          .filter((character) => character !== '%' && inPath(character).length > 1)
          .map((character) => literally(inPath(character)));
        asSet(node, alternatives);
      },
      onCharacterSetEnter: (node) => {
        if (!classes.some(({ start, end }) => start <= node.start && node.end <= end))
          asSet(node, []);
      },
      onCharacterEnter: (node) => {
        if (classes.some(({ start, end }) => start <= node.start && node.end <= end)) return;
        const character = String.fromCodePoint(node.value);
        const wanted = character === '%' ? '%' : inPath(character);
        if (wanted === character) return;
        const text = literally(wanted);
        edits.push({ ...node, text: wanted.length > 1 ? `(?:${text})` : text });
      },
    },
  );
  return edits
    .sort((a, b) => b.start - a.start)
    .reduce((text, edit) => text.slice(0, edit.start) + edit.text + text.slice(edit.end), escaped);
}

/** Escapes that stand outside of classes, in the spelling of a canonical path. */
function withCanonicalEscapes(source: string, inPath: (text: string) => string): string {
  return source.replace(
    /\[(?:\\.|[^\]])*\]|\\.|((?:%[\da-f]{2})+|%)/gi,
    (whole, run: string | undefined) => {
      if (run === undefined) return whole;
      if (canonicalPath(run) === null)
        throw new PatternSyntaxError(0, { code: 'malformed-escape-in-group', text: run });
      const text = [...decodeURIComponent(run)].map((one) => literally(inPath(one))).join('');
      return `(?:${text})`;
    },
  );
}
