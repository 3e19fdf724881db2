/** Why a condition can't be read, as plain data; `wording/condition-problem.ts` has the sentences. */
export type ConditionProblem =
  | { readonly code: 'too-deep'; readonly limit: number }
  | { readonly code: 'parenthesis-open' | 'list-open' | 'ever-alone' | 'list-expected' }
  | { readonly code: 'name-expected'; readonly after: string; readonly found: string | null }
  | { readonly code: 'value-alone' | 'not-a-value'; readonly text: string }
  /** A word that is no value; `meant` is what it most likely stood for. */
  | { readonly code: 'not-a-named-value'; readonly text: string; readonly meant: string | null }
  | { readonly code: 'value-expected' | 'ends-too-early' }
  | { readonly code: 'list-compared'; readonly operator: string }
  | { readonly code: 'surplus' | 'misplaced'; readonly text: string }
  | { readonly code: 'quote-open'; readonly quote: string }
  /** A character of no condition; `word` is what is written in place of it. */
  | {
      readonly code: 'foreign-character';
      readonly character: string;
      readonly word: string | null;
    };
