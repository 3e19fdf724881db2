/** Why someone lands where they do, as plain data; `wording/landing.ts` has the sentences. */
export type LandingReason =
  | { readonly code: 'return-address'; readonly address: string }
  | {
      readonly code: 'landing-rule' | 'no-landing-rule';
      readonly address: string;
      readonly after: 'sign-in' | 'sign-out';
      /** Why they do not go to the return address; null where there is none, or it does not come first. */
      readonly notBack:
        | { readonly because: 'not-of-this-site'; readonly from: string }
        | { readonly because: 'not-reached'; readonly from: string; readonly outcome: string }
        | null;
    };
