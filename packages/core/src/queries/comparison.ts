import type { PreparedSite } from '../decision/prepared-site.ts';
import { comparedStates, visitDifferences } from '../comparison/compare-states.ts';
import type { EntryChange, RuleChange } from '../comparison/entry.ts';
import { withVerifiedCauses } from '../comparison/verified-causes.ts';
import {
  landingDifferences,
  listingDifferences,
  menuDifferences,
  partDifferences,
} from '../comparison/other-differences.ts';
import { printInstant } from '../time/instant.ts';
import { nameOfChange, summaryOfChange } from '../wording/comparison.ts';
import { inShort, Listing, type ListedDifference } from './listed-difference.ts';
import { settled } from './who-reaches.ts';

/** An entry of the site file that differs, and what that does. */
export interface ListedChange {
  readonly section: RuleChange['section'];
  readonly name: string;
  readonly is: RuleChange['is'];
  /** What it is, as in `gate crew-room`. */
  readonly rule: string;
  readonly lineBefore: number | null;
  readonly lineAfter: number | null;
  /** How many differences it is a cause of; none for a change that changes nothing for anyone. */
  readonly differences: number;
  /** What it does, in a few words for each kind of visitors. */
  readonly summary: readonly string[];
}

/** Everything in which two states of a site differ, for every visitor there could be. */
export interface Comparison {
  readonly at: string;
  readonly timeZone: string;
  /** In how many stretches of time they were compared. */
  readonly stretches: number;
  /** The first date that was not looked at any more; null where all were. */
  readonly notFrom: string | null;
  /** What has more cases than can be told apart, and was not compared: pages, redirects and sections. */
  readonly notCompared: readonly string[];
  readonly changes: readonly ListedChange[];
  readonly differences: readonly ListedDifference[];
}

/**
 * Compares two states of a site: who gains what, and who loses it.
 *
 * @param at the moment from which on they are compared, in milliseconds since 1970
 * @throws QuestionError where there are more cases than can be told apart
 */
export function compareSites(before: PreparedSite, after: PreparedSite, at: number): Comparison {
  return settled(() => {
    const states = comparedStates(before, after, at);
    const listing = new Listing(before, after, at, states.changes);
    const visits = visitDifferences(states);
    const differences = [
      ...eachOnce(withVerifiedCauses(states, visits.differences).map((one) => listing.visit(one))),
      ...landingDifferences(states).map((one) =>
        listing.other(one, 'landing', `after ${one.after}`, {
          example: one.now.go,
          before: inShort(one.was),
          after: inShort(one.now),
        }),
      ),
      ...partDifferences(states).map((one) => listing.other(one, 'part', one.part!)),
      ...menuDifferences(states).map((one) =>
        listing.other(one, 'menu-link', `${one.link!.menu}: ${one.link!.address}`, {
          example: one.link!.address,
        }),
      ),
      ...listingDifferences(states).map((one) => listing.engines(one)),
    ];
    const byCause = states.changes.map((): ListedDifference[] => []);
    for (const one of differences)
      for (const cause of new Set(one.causes)) byCause[cause]!.push(one);
    return {
      at: printInstant(at),
      timeZone: after.site.timeZone,
      stretches: states.moments.length,
      notFrom: states.notFrom === null ? null : printInstant(states.notFrom),
      notCompared: visits.notCompared,
      changes: states.changes.map((change, i) => listed(change, byCause[i]!)),
      differences,
    };
  });
}

/** Addresses that no page has are found by the rules of both states; what is the same of them is told once. */
function eachOnce(differences: readonly ListedDifference[]): ListedDifference[] {
  const told = new Set<string>();
  return differences.filter((one) => {
    if (one.kind !== 'undeclared') return true;
    const { about, right, within, from, is, condition, before, after, causes } = one;
    const ends = [before, after].map((end) => [end?.outcome, end?.status]);
    const key = JSON.stringify([about, right, within, from, is, condition, ends, causes]);
    const isNew = !told.has(key);
    told.add(key);
    return isNew;
  });
}

function listed(
  { section, name, is, before, after }: EntryChange,
  own: readonly ListedDifference[],
): ListedChange {
  return {
    section,
    name,
    is,
    rule: nameOfChange(section, name),
    lineBefore: before?.line ?? null,
    lineAfter: after?.line ?? null,
    differences: own.length,
    summary: summaryOfChange(own),
  };
}
