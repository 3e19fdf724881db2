import type { SiteProblem } from './site-error.ts';

/** Why a question about a site can't be answered, as plain data; `wording/question-problem.ts` has the sentences. */
export type QuestionProblem =
  | { readonly code: 'not-a-moment' | 'not-a-section'; readonly text: string }
  | { readonly code: 'nobody-named' }
  | { readonly code: 'too-many-cases' }
  | { readonly code: 'no-such-visitor'; readonly name: string; readonly known: readonly string[] }
  | { readonly code: 'unreadable-visitor'; readonly problems: readonly SiteProblem[] };
