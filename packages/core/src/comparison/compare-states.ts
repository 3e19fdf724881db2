import { normalizePath } from '../address/tidy.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { datesOf } from '../everywhere/stretches.ts';
import { Atoms } from '../explore/atoms.ts';
import { ARRIVED, Explorer } from '../explore/explorer.ts';
import type { Family } from '../explore/families.ts';
import type { Right, Site } from '../model/site.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import type { Decision } from '../decision/decision.ts';
import type { VisitEnd } from '../visit/visit.ts';
import { affectedBy } from './affected.ts';
import { Causes } from './causes.ts';
import { addressOf } from '../everywhere/starts.ts';
import { placesOf, type Place, type StatesExplored, type ToExplore } from './places.ts';
import type { EntryChange } from './entry.ts';
import { entryChanges } from './rule-changes.ts';

/** They get somewhere now, or no longer; or something else happens to them. */
export type Gain = 'gains' | 'loses' | 'otherwise';

/** Some visitors for whom two states of a site differ. */
export interface Difference {
  readonly is: Gain;
  readonly visitors: number;
  /** What the set of visitors is made of; of the state after, at the moment of the difference. */
  readonly explorer: Explorer;
  /** The entries that make the difference. */
  readonly causes: readonly EntryChange[];
}

/** Some visitors whose visits to a place end in another way, all of them alike. */
export interface VisitDifference extends Difference {
  readonly place: Place;
  readonly right: Right;
  readonly before: VisitEnd;
  readonly after: VisitEnd;
}

/** Two states of a site, explored with the same statements about visitors, and what differs in their files. */
export interface ComparedStates extends ToExplore {
  readonly changes: readonly EntryChange[];
  readonly causes: Causes;
  /** The moments that were looked at, in milliseconds since 1970: the one asked for, and the dates after it. */
  readonly moments: readonly number[];
  /** The first date that was not looked at; null where all were. */
  readonly notFrom: number | null;
}

/** More stretches of time than a site has that people write. */
const MOST_MOMENTS = 24;

/**
 * Arranges two states of a site for comparing them.
 *
 * @param at the moment from which on they are compared, in milliseconds since 1970
 */
export function comparedStates(
  before: PreparedSite,
  after: PreparedSite,
  at: number,
): ComparedStates {
  const compared = entryChanges(before.site, after.site);
  const dates = [...new Set([before, after].flatMap(({ site }) => datesOf(site)))]
    .filter((date) => date > at)
    .sort((a, b) => a - b);
  const moments = [at, ...dates.slice(0, MOST_MOMENTS - 1)];
  const atoms = new Atoms(after.names);
  const explore = (prepared: PreparedSite): Explorer[] =>
    moments.map((moment) => new Explorer(prepared, moment, atoms));
  return {
    explored: { before: explore(before), after: explore(after) },
    affected: affectedBy(compared, after.site.tidy),
    changes: compared.changes,
    causes: new Causes(compared),
    moments,
    notFrom: dates[MOST_MOMENTS - 1] ?? null,
  };
}

const RIGHTS = [
  ['view', 'GET'],
  ['change', 'POST'],
] as const;

/** What two states differ in for visits, and what could not be compared. */
export interface VisitDifferences {
  readonly differences: readonly VisitDifference[];
  /** What has more cases than can be told apart: pages, redirects and sections. */
  readonly notCompared: readonly string[];
}

/** Finds, for every place at which two states may differ, the visitors whose visits end in another way. */
export function visitDifferences(states: ComparedStates): VisitDifferences {
  const { places, notCompared } = placesOf(states);
  const tooMany = new Set(notCompared);
  const all = places.flatMap((place) => {
    try {
      return differencesOf(states, place);
    } catch (error) {
      if (!(error instanceof TooManyCases)) throw error;
      tooMany.add(place.address);
      return [];
    }
  });
  const differences = withoutImplied(all, states.explored.after[0]!.prepared.site);
  return { differences, notCompared: [...tooMany] };
}

function differencesOf(states: ComparedStates, place: Place): VisitDifference[] {
  const explored = within(states.explored, place.family);
  // What is so from one moment on, or with either right, is told once: at the first moment.
  const told = new Map<string, number>();
  return RIGHTS.flatMap(([right, method]) =>
    explored.after.flatMap((after, i) =>
      differencesAt(states.causes, explored.before[i]!, after, place, method)
        .map((one): VisitDifference => ({ ...one, place, right, explorer: after }))
        .filter((one) => {
          const key = `${one.visitors} ${keyOf(one.before)} ${keyOf(one.after)}`;
          const isNew = i < (told.get(key) ?? Infinity);
          if (isNew) told.set(key, i);
          return isNew;
        }),
    ),
  );
}

/**
 * Leaves out what follows from another difference: where both states lead on to the same address, of which it is told
 * that visits there end in another way.
 */
function withoutImplied(all: readonly VisitDifference[], { tidy }: Site): VisitDifference[] {
  const told = new Map<string, VisitDifference>();
  const many: Place[] = [];
  for (const one of all) {
    if (one.place.family.pieces.size > 0) many.push(one.place);
    else told.set(addressOf(one.place), one);
  }
  return all.filter(({ place, before, after }) => {
    if (place.is === 'page' || !leadsAlike(before, after)) return true;
    const next = after.hops[1]!.address;
    const path = normalizePath(next.replace(/[?#].*$/s, ''), tidy);
    // Another spelling is no other address.
    if (!next.startsWith('/') || (place.origin === '' && place.family.has(path))) return true;
    const isTold =
      told.has(path) ||
      many.some(({ origin, query, family }) => origin === '' && query === '' && family.has(path));
    return !isTold;
  });
}

/** Whether both visits are redirected to the same address first, in the same way. */
const leadsAlike = (before: VisitEnd, after: VisitEnd): boolean =>
  before.hops.length > 1 &&
  after.hops.length > 1 &&
  answerOf(before.hops[0]!.decision) === answerOf(after.hops[0]!.decision);

const answers = new WeakMap<Decision, string>();

/** What a visitor, and their browser, is told at one address. */
function answerOf(decision: Decision): string {
  let answer = answers.get(decision);
  if (answer === undefined) {
    const { status, location, served, content, headers } = decision;
    const kept = location === null ? null : headers['Cache-Control'];
    answer = JSON.stringify([status, location, served, content, kept, headers['Refresh']]);
    answers.set(decision, answer);
  }
  return answer;
}

/** Explorers of addresses with pieces, in which sets of visitors are made of the same statements for all of them. */
function within({ before, after }: StatesExplored, { pieces }: Family): StatesExplored {
  if (pieces.size === 0) return { before, after };
  const atoms = new Atoms(after[0]!.prepared.names, pieces);
  const own = (all: readonly Explorer[]): Explorer[] =>
    all.map(({ prepared, at }) => new Explorer(prepared, at, atoms));
  return { before: own(before), after: own(after) };
}

type Found = Omit<VisitDifference, 'place' | 'right' | 'explorer'>;

function differencesAt(
  causes: Causes,
  before: Explorer,
  after: Explorer,
  place: Place,
  method: string,
): Found[] {
  const address = addressOf(place);
  const { sets } = after.atoms;
  const found = new Map<string, Found>();
  for (const was of before.partsOf(address, method))
    for (const is of after.partsOf(address, method)) {
      if (detailOf(was.end) === detailOf(is.end)) continue;
      const visitors = sets.and(was.visitors, is.visitors);
      if (!after.atoms.isAnyone(visitors)) continue;
      const why = causes.ofVisits(was.end, is.end);
      const names = why.map(({ section, name }) => `${section} ${name}`);
      const key = JSON.stringify([
        keyOf(was.end),
        keyOf(is.end),
        leadsAlike(was.end, is.end),
        names,
      ]);
      const same = found.get(key);
      found.set(key, {
        is: gainOf(was.end, is.end),
        visitors: sets.or(same?.visitors ?? 0, visitors),
        causes: why,
        before: same?.before ?? was.end,
        after: same?.after ?? is.end,
      });
    }
  return [...found.values()];
}

/** Whether those who did not get anywhere do now, or the other way round. */
function gainOf(before: VisitEnd, after: VisitEnd): Gain {
  const [was, is] = [before, after].map(({ outcome }) => ARRIVED.includes(outcome));
  return was === is ? 'otherwise' : is ? 'gains' : 'loses';
}

/** How a visit ends, in short; whether it took full access to get there makes no difference to the visitor. */
const keyOf = ({ outcome, status, final, hops }: VisitEnd): string =>
  JSON.stringify([outcome, status, final, hops.length]);

const details = new WeakMap<VisitEnd, string>();

/** All of a visit that its visitor can tell, and for how long browsers keep its redirects. */
export function detailOf(end: VisitEnd): string {
  let detail = details.get(end);
  if (detail === undefined) {
    const hops = end.hops.map(({ address, decision }) => [address, answerOf(decision)]);
    details.set(end, (detail = JSON.stringify([keyOf(end), hops])));
  }
  return detail;
}
