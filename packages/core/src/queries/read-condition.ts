import { Atoms } from '../explore/atoms.ts';
import { shortest } from '../explore/shortest.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import type { Condition } from '../model/condition.ts';
import { isRecord, type SiteValue } from '../model/plain-value.ts';
import { parsePattern } from '../pattern/parse.ts';
import { PatternSyntaxError } from '../pattern/pattern-syntax-error.ts';
import { buildAudiences } from '../site/read/build-audiences.ts';
import { sharedPieces } from '../site/read/build-gate.ts';
import { readerFor } from '../site/read/reader-for.ts';
import { ErrorList, type Places, type YamlPath } from '../site/yaml/document.ts';
import { describeCondition, productTitles, type Titles } from '../wording/condition.ts';
import { describeSiteProblem } from '../wording/site-problem.ts';
import type { SiteProblem } from '../model/site-error.ts';

/** A condition that was read, or why it can't be. */
export type ReadCondition =
  | {
      readonly ok: true;
      readonly condition: Condition;
      readonly text: string;
      /** Whom it fits. */
      readonly words: string;
    }
  | {
      readonly ok: false;
      /** Where in the text, from 0. */
      readonly offset: number;
      readonly problem: SiteProblem;
      readonly message: string;
      readonly remedy: string;
    };

/** The condition stands alone on its line. */
const place = (_: YamlPath, offset = 0) => ({ line: 1, column: offset + 1 });
const PLACES: Places = { valueAt: place, keyAt: place, within: place };

/**
 * Reads a condition as a gate of a site would have it: its names must be those of the site.
 *
 * @param site the site file as plain values; it may have errors elsewhere
 * @param addresses where the gate stands, for the pieces of its addresses
 */
export function readCondition(
  text: string,
  site: SiteValue,
  addresses: readonly string[] = [],
): ReadCondition {
  const list = new ErrorList('condition', [], PLACES);
  const pieces = sharedPieces(addresses.map(namesIn));
  const condition = readerFor(site, list).condition(text, [], { names: pieces });
  const [first] = [...list.errors].sort((a, b) => a.column - b.column);
  if (first) {
    const { problem, column } = first;
    return { ok: false, offset: column - 1, problem, ...describeSiteProblem(problem) };
  }
  // Moments are only compared with each other, so that any time zone does.
  const atoms = new Atoms({ audiences: audiencesOf(site), timeZone: 'UTC' });
  const words = wordsOf(condition, atoms, productTitles(titlesIn(site)));
  return { ok: true, condition, text, words };
}

/** Whom a condition fits; by the condition itself where it has more cases than can be told apart. */
export function wordsOf(condition: Condition, atoms: Atoms, titles: Titles): string {
  try {
    return describeCondition(shortest(atoms, atoms.setOf(condition, null)), titles);
  } catch (error) {
    if (!(error instanceof TooManyCases)) throw error;
    return describeCondition({ condition, clauses: null, isExcept: false }, titles);
  }
}

/** The audiences of a site file; those that can't be read admit nobody, and their errors are told elsewhere. */
function audiencesOf(site: SiteValue): ReadonlyMap<string, Condition> {
  const entries = isRecord(site['audiences']) ? Object.entries(site['audiences']) : [];
  const texts = entries.filter((entry): entry is [string, string] => typeof entry[1] === 'string');
  const list = new ErrorList('audiences', [], PLACES);
  const built = buildAudiences(texts, readerFor(site, list), list);
  return new Map(Object.entries(built));
}

function titlesIn({ products }: SiteValue): Record<string, { title: string }> {
  return Object.fromEntries(
    Object.entries(isRecord(products) ? products : {}).map(([name, product]) => {
      const title = isRecord(product) ? product['title'] : undefined;
      return [name, { title: typeof title === 'string' ? title : name }];
    }),
  );
}

function namesIn(address: string): readonly string[] {
  try {
    return parsePattern(address).names;
  } catch (error) {
    if (error instanceof PatternSyntaxError) return [];
    throw error;
  }
}
