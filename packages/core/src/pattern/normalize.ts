import { segmentProblem, withoutDotSegments } from '../address/segments.ts';
import { normalizePath, SEPARATORS } from '../address/tidy.ts';
import { literalPattern } from './parse.ts';
import { normalizeGroupSource } from './normalize-group.ts';
import { literalOf, type Part, type Pattern } from '../model/pattern.ts';
import { regexpOf } from './regexp.ts';
import type { Tidy } from '../model/tidy.ts';
import { PatternSyntaxError } from './pattern-syntax-error.ts';

/** Stands for what a group matches; no site has it as an index name or an ending. */
const SAMPLE = 'q0q0q';
const MAX_OPTIONS = 6;

/**
 * Brings a pattern to the form in which requests are matched, so that it matches an address however that is
 * spelled: one slash between segments, no final slash, no ending, no index name, one word separator.
 * @throws PatternSyntaxError where it has no such form, or where no request can have an address that it matches
 */
export function normalizePattern(pattern: Pattern, tidy: Tidy): Pattern {
  const literal = literalOf(pattern);
  if (literal !== null) return normalizeLiteral(pattern, literal, tidy);
  const parts = withoutTail(
    withSingleSlashes(pattern.parts.map((part) => withSeparator(part, tidy))),
    tidy,
  );
  checkGroupAtEnd(parts.at(-1), tidy);
  for (const sample of samplesOf(parts)) checkSample(sample, tidy);
  const isSame =
    parts.length === pattern.parts.length && parts.every((part, i) => part === pattern.parts[i]);
  return isSame ? pattern : { ...pattern, parts };
}

function normalizeLiteral(pattern: Pattern, literal: string, tidy: Tidy): Pattern {
  if (!literal.startsWith('/')) return pattern;
  const form = normalizePath(withoutDotSegments(literal), tidy);
  if (segmentProblem(form, tidy.allow) !== null) throw unreachable(form);
  if (form === literal) return pattern;
  const { ignoreCase, text } = pattern;
  return { ...literalPattern(form, { ignoreCase, fold: true }), text };
}

/** Parts with the word separator that requests come with. */
function withSeparator(part: Part, { words }: Tidy): Part {
  const one = (text: string): string =>
    words === 'keep' ? text : text.replace(SEPARATORS[words], words);
  if (part.is === 'text') {
    const value = one(part.value);
    return value === part.value ? part : { ...part, value };
  }
  const prefix = one(part.prefix);
  const suffix = one(part.suffix);
  const source = part.is === 'regexp' ? normalizeGroupSource(part.source, words) : '';
  const isSame = prefix === part.prefix && suffix === part.suffix && source === part.source;
  return isSame ? part : { ...part, prefix, suffix, source };
}

const startOf = (part: Part | undefined): string =>
  part === undefined ? '' : part.is === 'text' ? part.value : part.prefix;
const endOf = (part: Part): string => (part.is === 'text' ? part.value : part.suffix);
const withEnd = (part: Part, end: string): Part =>
  part.is === 'text' ? { ...part, value: end } : { ...part, suffix: end };
const isEmptyText = (part: Part): boolean => part.is === 'text' && part.value === '';

/** Joins slashes that follow each other, in one part or where two parts meet. */
function withSingleSlashes(parts: readonly Part[]): Part[] {
  const joined = parts.map((part): Part => {
    const one = (text: string): string => text.replace(/\/{2,}/g, '/');
    if (!startOf(part).includes('//') && !endOf(part).includes('//')) return part;
    return part.is === 'text'
      ? { ...part, value: one(part.value) }
      : { ...part, prefix: one(part.prefix), suffix: one(part.suffix) };
  });
  return joined
    .map((part, i) =>
      endOf(part).endsWith('/') && isSlashAfter(joined, i, endOf(part).length > 1 || i > 0)
        ? withEnd(part, endOf(part).slice(0, -1))
        : part,
    )
    .filter((part) => !isEmptyText(part));
}

/** Whether a slash stands behind a part in any case: where an option is left out, the part behind it has it, or nothing. */
function isSlashAfter(parts: readonly Part[], i: number, mayEnd: boolean): boolean {
  const next = parts[i + 1];
  if (next === undefined) return false;
  if (!startOf(next).startsWith('/')) return false;
  if (next.modifier === '' || next.modifier === '+') return true;
  return i + 2 === parts.length ? mayEnd : isSlashAfter(parts, i + 1, mayEnd);
}

/** Removes final slashes, endings and index names, as a request comes without them. */
function withoutTail(parts: readonly Part[], tidy: Tidy): Part[] {
  const trimmed = [...parts];
  for (let last = trimmed.at(-1); last !== undefined; last = trimmed.at(-1)) {
    const end = endOf(last);
    const isWhole = trimmed.length === 1 && last.is === 'text';
    const tail = tailOf(end, isWhole, tidy);
    if (tail === null) break;
    const rest = end.slice(0, -tail.length);
    const isOptional = last.modifier === '?' || last.modifier === '*';
    // An option that is nothing but a tail goes with it; one that has more can't lose only that.
    if (last.is === 'text' && rest !== '' && isOptional) break;
    trimmed[trimmed.length - 1] = withEnd(last, rest);
    if (last.is === 'text' && rest === '') trimmed.pop();
  }
  return trimmed.length === 0 ? [{ is: 'text', value: '/', modifier: '' }] : trimmed;
}

/** What at the end of some fixed text is no part of the form of an address; null where nothing is. */
function tailOf(text: string, isWhole: boolean, tidy: Tidy): string | null {
  if (text.endsWith('/')) return isWhole && text === '/' ? null : '/';
  const last = text.slice(text.lastIndexOf('/') + 1);
  const ending = tidy.endings.find((one) => last.endsWith(one));
  // A segment that is nothing but an ending keeps it, unless a group stands before it.
  if (ending !== undefined && (last.length > ending.length || !text.includes('/'))) return ending;
  const index = tidy.index.find((one) => text.endsWith(`/${one}`));
  return index === undefined ? null : `/${index}`;
}

/** Refuses a custom group at the end that wants what every address comes without. */
function checkGroupAtEnd(last: Part | undefined, tidy: Tidy): void {
  if (last?.is !== 'regexp' || last.suffix !== '') return;
  const matcher = { parts: [{ ...last, prefix: '' }], ignoreCase: tidy.case === 'lower' };
  const index = last.prefix.endsWith('/')
    ? tidy.index.find((one) => regexpOf(matcher).matches(one))
    : undefined;
  const fixed = last.source.replaceAll('\\', '');
  const dropped = index ?? tidy.endings.find((one) => fixed.includes(one));
  if (dropped === undefined) return;
  throw new PatternSyntaxError(0, { code: 'group-asks-for-dropped', dropped });
}

/** Addresses that a pattern matches, one for each choice of its optional and repeated parts. */
function samplesOf(parts: readonly Part[]): string[] {
  const options = parts.filter(({ modifier }) => modifier !== '').length;
  const timesOf = (part: Part): number[] => {
    const { modifier } = part;
    if (modifier === '') return [1];
    if (options > MAX_OPTIONS) return modifier === '+' ? [2] : [0, 1];
    return modifier === '?' ? [0, 1] : modifier === '+' ? [1, 2] : [0, 1, 2];
  };
  const once = (part: Part): string =>
    part.is === 'text' ? part.value : part.prefix + SAMPLE + part.suffix;
  let samples = [''];
  for (const part of parts)
    samples = samples
      .flatMap((before) => timesOf(part).map((times) => before + once(part).repeat(times)))
      .slice(0, 4096);
  return samples.filter((sample) => sample !== '');
}

function checkSample(sample: string, tidy: Tidy): void {
  if (!sample.startsWith('/')) return;
  if (withoutDotSegments(sample) !== sample)
    throw new PatternSyntaxError(0, { code: 'dot-segment' });
  if (segmentProblem(sample, tidy.allow) !== null) throw unreachable(sample);
  const form = normalizePath(sample, tidy);
  if (form === sample) return;
  const [written, matched] = [sample, form].map((one) => one.replaceAll(SAMPLE, '…'));
  throw new PatternSyntaxError(0, { code: 'other-form', written: written!, matched: matched! });
}

const unreachable = (form: string): PatternSyntaxError =>
  new PatternSyntaxError(0, { code: 'unreachable', address: form.replaceAll(SAMPLE, '…') });
