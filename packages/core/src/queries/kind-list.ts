import { readSection } from './question.ts';
import { printCondition } from '../condition/print.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { Explorer } from '../explore/explorer.ts';
import { NONE } from '../explore/visitor-sets.ts';
import { sectionTest } from '../grid/grid.ts';
import { kindsOf, type Kind } from '../kinds/kinds.ts';
import type { Visitor } from '../model/visitor.ts';
import { describeCondition, productTitles } from '../wording/condition.ts';
import { declaredVisitor } from '../explore/declared-visitor.ts';
import { settled } from './who-reaches.ts';

/** Visitors to all of whom the same happens at every page. */
export interface ListedKind {
  /** What makes its example who they are, as in `warden`; by its place in the list where that is long. */
  readonly name: string;
  /** Exactly who is of it, as a condition and in words. */
  readonly condition: string;
  readonly words: string;
  /** One of them, as a site file and a request declare one. */
  readonly example: Readonly<Record<string, unknown>>;
  /** What makes the example who they are. */
  readonly summary: string;
  /** How many pages they reach. */
  readonly pages: number;
  /** The visitors of the site file who are of it. */
  readonly visitors: readonly string[];
}

export interface ListedKinds {
  readonly kinds: readonly ListedKind[];
  /** How many pages were looked at. */
  readonly pages: number;
  /** These are the kinds of visitors who have at most so many traits; null where they are all kinds. */
  readonly mostTraits: number | null;
}

/**
 * The kinds of visitors that the rules of a site tell apart, the plainest first.
 *
 * @param under only pages at or beneath this address
 * @param at the moment, in milliseconds since 1970
 * @throws QuestionError where there are more than can be told apart
 */
export function kindList(prepared: PreparedSite, at: number, under?: string): ListedKinds {
  const { site } = prepared;
  const titles = productTitles(site.products);
  const { explorer, pages, kinds, others, mostTraits } = kindsAt(prepared, at, under);
  const names = namesOf(kinds);
  return {
    pages,
    mostTraits,
    kinds: kinds.map(({ visitors, example, pages: reached }, i) => {
      // Whether the words fit someone who is of no listed kind does not matter.
      const who = explorer.describe(visitors, others)!;
      return {
        name: names[i]!,
        condition: printCondition(who.condition),
        words: describeCondition(who, titles),
        example: declaredVisitor(example),
        summary: example.summary,
        pages: reached,
        visitors: site.visitors
          .filter((one) => explorer.atoms.knowing(visitors, one, at) !== NONE)
          .map(({ name }) => name),
      };
    }),
  };
}

/**
 * One visitor of each kind, called as the list does, for the grid.
 *
 * @param under only pages at or beneath this address count
 * @param at the moment, in milliseconds since 1970
 * @throws QuestionError where there are more than can be told apart
 */
export function kindVisitors(prepared: PreparedSite, at: number, under?: string): Visitor[] {
  const { kinds } = kindsAt(prepared, at, under);
  const names = namesOf(kinds);
  return kinds.map(({ example }, i) => ({ ...example, name: names[i]!, title: example.summary }));
}

function kindsAt(prepared: PreparedSite, at: number, under: string | undefined) {
  const { site } = prepared;
  const isIn = sectionTest(readSection(prepared, under), site.tidy);
  const pages = site.pages.filter(({ inGrid, example }) => inGrid && isIn(example));
  const explorer = new Explorer(prepared, at);
  return settled(() => ({ explorer, ...kindsOf(explorer, pages), pages: pages.length }));
}

const LONGEST_NAME = 24;

/** What kinds are called: as what makes their example who they are, where that is short and no other is called so. */
function namesOf(kinds: readonly Kind[]): string[] {
  const slugs = kinds.map(({ example }) =>
    example.summary.replace(/[^\p{L}\p{N}]+/gu, '-').toLowerCase(),
  );
  return slugs.map((slug, i) =>
    slug.length <= LONGEST_NAME && slugs.indexOf(slug) === i ? slug : `kind-${i + 1}`,
  );
}
