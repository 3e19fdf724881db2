/** Why a pattern or a target can't be read, as plain data; `wording/pattern-problem.ts` has the sentences. */
export type PatternProblem =
  | {
      readonly code:
        | 'backslash-at-end'
        | 'name-expected'
        | 'group-begins-with-question-mark'
        | 'group-captures'
        | 'group-open'
        | 'group-empty'
        | 'brace-open'
        | 'nothing-optional'
        | 'back-reference'
        | 'lookaround'
        | 'flags-in-group'
        | 'combined-classes'
        | 'dot-segment'
        | 'two-slashes';
    }
  | { readonly code: 'group-not-ascii' | 'misplaced'; readonly character: string }
  | { readonly code: 'malformed-escape' | 'not-an-address'; readonly text: string }
  | { readonly code: 'malformed-escape-in-group'; readonly text: string }
  | { readonly code: 'name-twice'; readonly name: string }
  | { readonly code: 'not-linear'; readonly source: string; readonly detail: string }
  /** A group asks for an ending or an index name, without which every address comes. */
  | { readonly code: 'group-asks-for-dropped'; readonly dropped: string }
  | { readonly code: 'other-form'; readonly written: string; readonly matched: string }
  | { readonly code: 'unreachable'; readonly address: string };

/** Why a rewrite has no inverse. */
export type InversionProblem =
  | {
      readonly code:
        | 'other-server'
        | 'field-without-value'
        | 'optional-part'
        | 'piece-not-alone'
        | 'several-wide-pieces'
        | 'touching-pieces';
    }
  | { readonly code: 'piece-lost' | 'wide-piece-in-query'; readonly piece: string };
