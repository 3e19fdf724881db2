import type { decisions } from '@kleidon/core';

/** How an outcome is shown: a sign that can be told apart without colour, a word, and what it means. */
export interface OutcomeWords {
  readonly sign: string;
  readonly word: string;
  readonly meaning: string;
}

/** The outcomes in the order of a legend. */
export const OUTCOME_WORDS: Readonly<Record<decisions.Outcome, OutcomeWords>> = {
  reach: { sign: '●', word: 'reach', meaning: 'sees the page' },
  'sign-in': { sign: '?', word: 'sign in', meaning: 'is asked to sign in' },
  block: { sign: '×', word: 'block', meaning: 'is turned away' },
  missing: { sign: '·', word: 'missing', meaning: 'is told that nothing is there' },
  away: { sign: '↗', word: 'away', meaning: 'leaves for another site' },
  loop: { sign: '∞', word: 'loop', meaning: 'goes round and round' },
  invalid: { sign: '!', word: 'invalid', meaning: 'asked for what is no address' },
};

/** The sign that full access alone let a visitor in. */
export const FULL_ACCESS = {
  sign: '◆',
  word: 'full access',
  meaning: 'sees the page by full access alone',
};

/** Shown instead of a status if no page is declared and the gateway asks the website. */
export const WEBSITE_DECIDES = 'the website decides';

/** Whether a decision passes the request to the website without a declared page. */
export const isLeftToWebsite = ({
  outcome,
  page,
}: Pick<decisions.Decision, 'outcome' | 'page'>): boolean => outcome === 'reach' && page === null;

/** How often each outcome stands in the column of a visitor. */
export function tally(
  grid: Pick<decisions.Grid, 'rows'>,
  visitor: string,
): Partial<Record<decisions.Outcome, number>> {
  const counts: Partial<Record<decisions.Outcome, number>> = {};
  for (const { cells } of grid.rows) {
    const outcome = cells[visitor]?.outcome;
    if (outcome) counts[outcome] = (counts[outcome] ?? 0) + 1;
  }
  return counts;
}

/** How many pages there are; one of which only some addresses are listed counts once. */
export const countPages = (
  pages: readonly { readonly address: string; readonly parent?: string | null }[],
): number => new Set(pages.map(pageOf)).size;

/** The page of a row; of addresses cut out of a pattern, that is the page above. */
const pageOf = ({ address, parent }: { address: string; parent?: string | null }): string =>
  parent != null && address.startsWith(`${parent} `) ? parent : address;
