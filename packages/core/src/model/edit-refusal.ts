/** Why an edit or an operation of a patch can't be made, as plain data; `wording/edit-refusal.ts` has the sentences. */
export type EditRefusal =
  | { readonly code: 'no-name'; readonly section: string }
  | { readonly code: 'not-there' | 'name-taken'; readonly section: string; readonly name: string }
  | { readonly code: 'entry-changed'; readonly section: string }
  | {
      readonly code: 'entry-replaced';
      readonly section: string;
      readonly name: string;
      readonly was: unknown;
      /** What the site file has now; null where it has none. */
      readonly is: unknown;
    }
  | { readonly code: 'entries-changed'; readonly changed: number; readonly all: number }
  | { readonly code: 'reserved-name'; readonly name: string }
  | { readonly code: 'not-of-this-site'; readonly address: string }
  | { readonly code: 'not-yaml' }
  | {
      readonly code:
        | 'no-pointer'
        | 'nothing-at-path'
        | 'other-value'
        | 'moved-into-itself'
        | 'nothing-to-add-to'
        | 'not-writable';
      readonly path: string;
    }
  | { readonly code: 'no-such-place'; readonly path: string; readonly place: string };
