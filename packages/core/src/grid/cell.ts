import { evaluate, type Situation } from '../condition/evaluate.ts';
import { readsOf } from '../condition/reads.ts';
import type { Answers } from '../decision/decision.ts';
import { buyerOf } from '../decision/offer.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import type { Condition } from '../model/condition.ts';
import type { Visitor } from '../model/visitor.ts';
import { followRedirects, redirectsOf, type Outcome, type VisitEnd } from '../visit/visit.ts';

/** How one visitor's visit to one page ends. */
export interface Cell {
  readonly outcome: Outcome;
  readonly status: number;
  readonly final: string;
  /** The number of redirects followed. */
  readonly hops: number;
  /** Only full access let the visitor in. */
  readonly fullAccess: boolean;
}

/** What a visit asks about. */
interface Question {
  readonly condition: Condition;
  readonly address: Pick<Situation, 'path' | 'query'>;
  /** Products that the visitor is taken to have bought besides, and signed in for; null for the visitor as they are. */
  readonly bought: readonly string[] | null;
}

/** A question, and what follows from either answer; a cell where nothing more is asked. */
interface Asking {
  readonly question: Question;
  readonly next: Map<boolean, Asking | Cell>;
}

/** A visitor, with what was asked about them: one condition stands before many pages. */
export class AskedVisitor {
  private readonly known = new Map<Condition, boolean>();

  /**
   * @param at the moment, in milliseconds since 1970
   */
  constructor(
    readonly prepared: PreparedSite,
    readonly visitor: Visitor,
    readonly at: number,
  ) {}

  answer({ condition, address, bought }: Question): boolean {
    const { names } = this.prepared;
    const isPlain = bought === null && !readsOf(condition, names).address;
    const before = isPlain ? this.known.get(condition) : undefined;
    if (before !== undefined) return before;
    const visitor = bought === null ? this.visitor : buyerOf(this.visitor, bought);
    const answer = evaluate(condition, { visitor, at: this.at, ...address }, names);
    if (isPlain) this.known.set(condition, answer);
    return answer;
  }
}

/**
 * Decides an address for one visitor after the other. Whoever answers as someone before them has the same cell: a
 * visit depends on nothing but the address and the answers to what it asks.
 *
 * @param at the moment, in milliseconds since 1970
 */
export function cellsAt(
  prepared: PreparedSite,
  address: string,
  at: number,
): (asked: AskedVisitor) => Cell {
  const first = new Map<boolean, Asking | Cell>();
  return (asked) => {
    let node = first.get(true);
    while (node !== undefined && 'question' in node)
      node = node.next.get(asked.answer(node.question));
    return node ?? decideCell(prepared, address, asked, at, first);
  };
}

/** Makes a visit, and notes what it asks. */
function decideCell(
  prepared: PreparedSite,
  address: string,
  asked: AskedVisitor,
  at: number,
  first: Map<boolean, Asking | Cell>,
): Cell {
  let [next, answer] = [first, true];
  const own = asked.visitor.bought.length;
  const answers: Answers = {
    holds(condition, { visitor, path, query }) {
      let node = next.get(answer);
      if (node === undefined || !('question' in node)) {
        const more = visitor.bought.slice(own).map(({ product }) => product);
        const bought = more.length > 0 || visitor.guest !== asked.visitor.guest ? more : null;
        node = { question: { condition, address: { path, query }, bought }, next: new Map() };
        next.set(answer, node);
      }
      next = node.next;
      return (answer = asked.answer(node.question));
    },
  };
  const request = { method: 'GET', address };
  const cell = cellOf(followRedirects(prepared, request, asked.visitor, at, answers));
  next.set(answer, cell);
  return cell;
}

/** The end of a visit as a cell. */
export function cellOf(ended: VisitEnd): Cell {
  const { outcome, status, final, fullAccess } = ended;
  return { outcome, status, final, hops: redirectsOf(ended), fullAccess };
}
