import { valuesIn, type Condition } from '../model/condition.ts';
import { evaluate, type Situation } from '../condition/evaluate.ts';
import { encodePathText } from '../address/canonical-path.ts';
import { decodeGroups, fillPattern, type Groups } from './fill.ts';
import { literalOf, type Group, type Pattern } from '../model/pattern.ts';
import { regexpOf } from './regexp.ts';
import { wordsOfGroup } from './words.ts';
import type { Redirect } from '../model/site.ts';
import { GUEST } from '../model/visitor.ts';

/**
 * A real address of a page whose own address is a pattern, so that the grid has something to visit:
 * one for which `missing-unless` holds where such a one is found.
 */
export const exampleOf = (pattern: Pattern, missingUnless: Condition | null): string =>
  findExample(pattern, missingUnless) ?? fillPattern(pattern, valuesByName(pattern));

/** The same; null where none was found. */
function findExample(pattern: Pattern, missingUnless: Condition | null): string | null {
  const literal = literalOf(pattern);
  if (literal !== null) return literal;
  for (const values of attempts(pattern, missingUnless)) {
    const address = fillPattern(pattern, values);
    if (regexpOf(pattern).matches(address) && isThere(missingUnless, values)) return address;
  }
  return null;
}

/** Whether `missing-unless` holds for a guest, at an address of these pieces. */
export const isThere = (missingUnless: Condition | null, values: Groups): boolean =>
  missingUnless === null || evaluate(missingUnless, situationAt(values), NO_NAMES);

const NO_NAMES = { audiences: new Map<string, Condition>(), timeZone: 'UTC' };
const situationAt = (values: Groups): Situation => ({
  visitor: GUEST,
  at: 0,
  path: decodeGroups(values),
  query: '',
});

/** How many words of each group are tried. */
const MOST_WORDS = 10;

/** What the groups of a pattern may stand for: what is likely, then what their regular expressions match. */
function* attempts(pattern: Pattern, missingUnless: Condition | null): Generator<Groups> {
  const groups = groupsOf(pattern);
  const byName = valuesByName(pattern);
  yield byName;
  const candidates = [...namesIn(missingUnless), '1', '2', 'a'].map(encodePathText);
  for (const value of candidates) yield Object.fromEntries(groups.map(({ name }) => [name, value]));
  const words = groups.map(({ name, source }): [string, readonly string[]] => [
    name,
    source === '' ? [] : wordsOfGroup(source, MOST_WORDS),
  ]);
  for (let i = 0; i < MOST_WORDS; i++) {
    const chosen = words.map(([name, all]) => [name, all[Math.min(i, all.length - 1)] ?? null]);
    for (const value of [null, ...candidates])
      yield Object.fromEntries(
        chosen.map(([name, word]) => [name!, word ?? value ?? byName[name!]!]),
      );
    if (words.every(([, all]) => all.length <= i + 1)) return;
  }
}

const groupsOf = ({ parts }: Pattern): Group[] =>
  parts.filter((part): part is Group => part.is !== 'text');

const valuesByName = (pattern: Pattern): Groups =>
  Object.fromEntries(
    groupsOf(pattern).map((part) => [part.name, encodePathText(nameFor(part))] as const),
  );

/** An address that a redirect is for. */
export function exampleOfRedirect({
  host,
  pattern,
  queryConstraints: queryConstraints,
}: Redirect): string {
  const address = exampleOf(pattern, null) + exampleQuery(queryConstraints);
  return host === null ? address : `https://${host}${address}`;
}

/** A query that a redirect is for, with its question mark; empty where it asks for none. */
export function exampleQuery(constraints: Redirect['queryConstraints']): string {
  if (constraints.length === 0) return '';
  const fields = constraints.map(({ field, value }) => [field, value ?? 'example']);
  return `?${new URLSearchParams(fields).toString()}`;
}

const nameFor = (part: Group): string => (/^\d+$/.test(part.name) ? 'example' : part.name);

function namesIn(condition: Condition | null): string[] {
  if (!condition) return [];
  return valuesIn(condition).flatMap((value) =>
    value.is === 'string' || value.is === 'number' ? [String(value.value)] : [],
  );
}
