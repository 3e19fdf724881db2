import type { Condition } from '../model/condition.ts';
import type { Situation } from '../condition/evaluate.ts';
import type { Answers, Request } from '../decision/decision.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { GUEST } from '../model/visitor.ts';
import { followRedirects, type VisitEnd } from '../visit/visit.ts';
import { Atoms } from './atoms.ts';
import { ALL, NONE } from './visitor-sets.ts';

/** Some visitors, all of whom a request ends alike for. */
export interface Part {
  readonly visitors: number;
  readonly end: VisitEnd;
}

/**
 * Finds how a request ends for every possible visitor, by running the decision for each combination of answers
 * to the conditions that it asks about.
 *
 * @param at the moment, in milliseconds since 1970
 * @returns parts that do not overlap and together are all visitors
 */
export function explore(
  prepared: PreparedSite,
  atoms: Atoms,
  request: Request,
  at: number,
): Part[] {
  const { sets } = atoms;
  const parts: Part[] = [];
  /** Prefixes of answers that are still to be tried. */
  const waiting: boolean[][] = [[]];
  for (let given = waiting.pop(); given !== undefined; given = waiting.pop()) {
    const answers: boolean[] = [];
    let visitors: number = ALL;
    const isPossible = (set: number): boolean => sets.and(set, atoms.possible()) !== NONE;
    const prefix = given;
    const answering: Answers = {
      holds(condition: Condition, situation: Situation): boolean {
        const set = askedOf(atoms, condition, situation);
        const yes = sets.and(visitors, set);
        const no = sets.and(visitors, sets.not(set));
        if (!isPossible(no)) return true;
        if (!isPossible(yes)) return false;
        const answer = answers.length < prefix.length ? prefix[answers.length]! : true;
        if (answers.length >= prefix.length) waiting.push([...answers, false]);
        answers.push(answer);
        visitors = answer ? yes : no;
        return answer;
      },
    };
    const end = followRedirects(prepared, request, GUEST, at, answering);
    parts.push({ visitors: sets.and(visitors, atoms.possible()), end });
  }
  return parts;
}

/** Those for whom a condition holds; as buyers, where an offer asks whether a purchase would do. */
function askedOf(atoms: Atoms, condition: Condition, situation: Situation): number {
  const set = atoms.setOf(condition, situation);
  const { bought } = situation.visitor;
  return bought.length === 0
    ? set
    : atoms.buyersIn(
        set,
        bought.map(({ product }) => product),
      );
}
