import { printCondition } from '../condition/print.ts';
import { pageAt } from '../decision/page-at.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { Explorer } from '../explore/explorer.ts';
import { familyOf, type Family } from '../explore/families.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import { NONE } from '../explore/visitor-sets.ts';
import type { ReadableCondition } from '../model/clause.ts';
import type { Closure } from '../model/closure.ts';
import { literalOf } from '../model/pattern.ts';
import type { Page, Right } from '../model/site.ts';
import { gatesIn, reachOf, type Reach } from '../reach/reach.ts';
import type { Outcome } from '../visit/visit.ts';
import { QuestionError } from './question.ts';
import { describeClosure } from '../wording/closure.ts';
import { describeCondition, productTitles, type Titles } from '../wording/condition.ts';
import { printScope } from '../wording/reason.ts';

/** How a visit ends for some visitors. */
export interface Ending {
  readonly outcome: Outcome;
  /** Where it ends: a path on the site's primary host, a whole URL elsewhere. */
  readonly final: string;
  /** They come there only by having full access. */
  readonly fullAccess: boolean;
  /** Exactly whom it is so for, as a condition. */
  readonly condition: string;
  readonly words: string;
}

/** Who reaches an address, and how visits end for everyone else. */
export interface ReachedAddress {
  /** The address that this is said of, or one of several of which it is. */
  readonly example: string;
  /** Exactly who reaches it, as a condition; full access is apart. */
  readonly condition: string;
  readonly words: string;
  /** Who gets in by full access alone; null where nobody does. */
  readonly byFullAccess: string | null;
  /** Why nobody does at the moment, whoever they are; null otherwise. */
  readonly closed: string | null;
  /** The same as data. */
  readonly closure: Closure | null;
  /** The gates that have a say, the nearest first. */
  readonly gates: readonly string[];
  /** Every way in which a visit ends; everyone is in one of them. */
  readonly endings: readonly Ending[];
}

/** Addresses of a page whose own address is a pattern, which all rules treat alike. */
export interface ReachedFamily extends ReachedAddress {
  /** Where the rules stand that cut them out, as in `under /crew`; none for the rest of the page. */
  readonly within: readonly string[];
}

/** Who reaches a page, from the rules themselves: every visitor there could be, not a sample. */
export interface WhoReaches extends ReachedAddress {
  readonly address: string;
  readonly title: string;
  /** Where the page redirects to, for one that has no content of its own. */
  readonly leadsTo: string | null;
  /**
   * The families of addresses of a page whose address is a pattern; what is said of the page itself is about the
   * first of them, the addresses that no other rule cuts out. None for a page that is not cut.
   */
  readonly families: readonly ReachedFamily[];
}

/**
 * Says who reaches a page.
 *
 * @param address an address of the page, or the page's own address where that is a pattern
 * @param at the moment, in milliseconds since 1970
 * @param right whether it is to be viewed or changed
 * @returns null where no page is
 * @throws QuestionError where the conditions have more cases than can be told apart
 */
export function whoReaches(
  prepared: PreparedSite,
  address: string,
  at: number,
  right: Right = 'view',
): WhoReaches | null {
  const found = pageAt(prepared, address);
  if (found === null) return null;
  const { page } = found.rule;
  const isOne = address !== page.address && literalOf(page.pattern) === null;
  const explorer = new Explorer(prepared, at);
  return settled(() =>
    whoReachesPage(explorer, page, right, isOne ? [familyOf(address)] : explorer.familiesOf(page)),
  );
}

/**
 * Answers a question about all visitors.
 *
 * @throws QuestionError where there are more cases than can be told apart
 */
export function settled<T>(answer: () => T): T {
  try {
    return answer();
  } catch (error) {
    if (error instanceof TooManyCases) throw new QuestionError({ code: 'too-many-cases' });
    throw error;
  }
}

/** Says who reaches a page of the site, at the moment that is explored. */
function whoReachesPage(
  explorer: Explorer,
  page: Page,
  right: Right,
  families: readonly Family[],
): WhoReaches {
  const reached = families.map((family): ReachedFamily => ({
    within: family.within.map(printScope),
    ...reachedAddress(reachOf(explorer, page, family, right), family),
  }));
  const [first = NO_ADDRESS] = reached;
  const { within: _, ...own } = first;
  return {
    address: page.address,
    title: page.title,
    ...own,
    leadsTo: page.leadsTo,
    families: reached.length > 1 ? reached : [],
  };
}

/** A shorter one would be found in other words, too. */
const LONG_ENOUGH = 3;

/** Of a page all of whose addresses are others'. */
const NO_ADDRESS: ReachedFamily = {
  within: [],
  example: '',
  condition: 'nobody',
  words: 'nobody',
  byFullAccess: null,
  closed: null,
  closure: null,
  gates: [],
  endings: [],
};

const reachedAddress = (reach: Reach, family: Family): ReachedAddress => ({
  example: family.example,
  ...reachInWords(reach),
  endings: endingsOf(reach, family, productTitles(reach.explorer.prepared.site.products)),
});

/** Says who reaches some addresses, without how visits end for everyone else. */
export function reachInWords({
  explorer,
  visitors,
  byFullAccess,
  closure,
  parts,
}: Reach): Omit<ReachedAddress, 'example' | 'endings'> {
  const { site } = explorer.prepared;
  const titles = productTitles(site.products);
  const by = explorer.describe(byFullAccess, visitors);
  return {
    ...told(explorer.describe(visitors), titles),
    byFullAccess: by && describeCondition(by, titles),
    closed: closure && describeClosure(closure, site.timeZone),
    closure,
    gates: gatesIn(parts),
  };
}

const told = (
  who: ReadableCondition | null,
  titles: Titles,
): { condition: string; words: string } =>
  who === null
    ? { condition: 'nobody', words: 'nobody' }
    : { condition: printCondition(who.condition), words: describeCondition(who, titles) };

function endingsOf({ explorer, parts }: Reach, { pieces }: Family, titles: Titles): Ending[] {
  const endings = new Map<string, Omit<Ending, 'condition' | 'words'> & { visitors: number }>();
  for (const { visitors, end } of parts) {
    const { outcome } = end;
    const fullAccess = outcome === 'reach' && end.fullAccess;
    // What stands for a piece in the example is anything that the piece may be.
    const final = [...pieces].reduce(
      (text, [token, { name }]) =>
        token.length < LONG_ENOUGH ? text : text.replaceAll(token, `:${name}`),
      end.final,
    );
    const key = JSON.stringify([outcome, final, fullAccess]);
    const before = endings.get(key)?.visitors ?? NONE;
    const all = explorer.atoms.sets.or(before, visitors);
    endings.set(key, { outcome, final, fullAccess, visitors: all });
  }
  return [...endings.values()].map(({ visitors, ...ending }) => ({
    ...ending,
    ...told(explorer.describe(visitors), titles),
  }));
}
