import type { Condition } from '../model/condition.ts';
import type { Names, Situation } from '../condition/evaluate.ts';
import { decide } from '../decision/decide.ts';
import type { Answers, Decision, Request } from '../decision/decision.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { GUEST } from '../model/visitor.ts';
import type { Atoms } from './atoms.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import { ALL } from './visitor-sets.ts';

/** A hostile site file could ask about as many conditions at one address as it likes. */
const MOST_DECISIONS = 5_000;

/** Some visitors, all of whom a request is decided alike for. */
export interface Decided {
  readonly visitors: number;
  readonly decision: Decision;
}

/**
 * Finds how a request is decided for every possible visitor, by running the decision for each combination of
 * answers to the conditions that it asks about.
 *
 * @param at the moment, in milliseconds since 1970
 * @param isAnyQuery the request may have any query, and what conditions ask of it counts as asked of the visitor
 * @returns parts that do not overlap and together are all visitors
 * @throws TooManyCases where there are more of them than can be told apart
 */
export function* decideForAll(
  prepared: PreparedSite,
  atoms: Atoms,
  request: Request,
  at: number,
  isAnyQuery = false,
): Generator<Decided> {
  const { sets } = atoms;
  let decided = 0;
  /** Prefixes of answers that are still to be tried. */
  const waiting: boolean[][] = [[]];
  for (let prefix = waiting.pop(); prefix !== undefined; prefix = waiting.pop()) {
    const given = prefix;
    const answers: boolean[] = [];
    let visitors: number = ALL;
    const answering: Answers = {
      holds(condition: Condition, situation: Situation): boolean {
        const set = askedOf(atoms, condition, situation, prepared.names, isAnyQuery);
        const yes = sets.and(visitors, set);
        const no = sets.without(visitors, set);
        if (!atoms.isAnyone(no)) return true;
        if (!atoms.isAnyone(yes)) return false;
        const answer = answers.length < given.length ? given[answers.length]! : true;
        if (answers.length >= given.length) waiting.push([...answers, false]);
        answers.push(answer);
        visitors = answer ? yes : no;
        return answer;
      },
    };
    const decision = decide(prepared, request, GUEST, at, answering);
    if (++decided > MOST_DECISIONS) throw new TooManyCases();
    yield { visitors: sets.and(visitors, atoms.possible()), decision };
  }
}

/** Those for whom a condition holds; where an offer asks, those who would sign in, or buy, for it. */
function askedOf(
  atoms: Atoms,
  condition: Condition,
  situation: Situation,
  names: Names,
  isQueryOpen: boolean,
): number {
  const address = isQueryOpen ? { ...situation, isQueryOpen } : situation;
  const set = atoms.setOf(condition, address, names);
  const { guest, bought } = situation.visitor;
  // An offer asks as someone who signs in.
  return guest
    ? set
    : atoms.buyersIn(
        set,
        bought.map(({ product }) => product),
      );
}
