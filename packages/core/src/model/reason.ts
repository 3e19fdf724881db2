import type { AddressProblem } from './address-problem.ts';
import type { Condition } from './condition.ts';
import type { Right, Scope } from './site.ts';
import type { SourceLocation } from './source-location.ts';

export type StageName =
  | 'address'
  | 'host'
  | 'https'
  | 'redirect'
  | 'tidy'
  | 'rewrite'
  | 'gate'
  | 'page'
  | 'lead'
  | 'answer'
  | 'not-found';

/** What a stage had to say about its rule. */
export type Verdict =
  | 'passed'
  | 'skipped'
  | 'admitted'
  | 'refused'
  | 'redirected'
  | 'rewritten'
  | 'found'
  | 'missing'
  | 'answered'
  | 'invalid';

/** Who asked, as reasons call them. */
export interface Who {
  readonly title: string;
  readonly summary: string;
}

/** A rule that reasons call by what it is for. */
export interface NamedRule {
  readonly kind: 'gate' | 'redirect' | 'rewrite';
  readonly name: string;
}

/** A gate as reasons describe it. */
export interface GateValues {
  readonly gate: string;
  readonly scopes: readonly Scope[];
  readonly admit: Condition;
}

/** What happens to those whom a gate turns away. */
export type TurnedAway =
  | { readonly do: 'sign-in' | 'no-sign-in-page' | 'hide' | 'nothing-sold' | 'refuse' }
  | { readonly do: 'send'; readonly to: string }
  /** The titles of each set of products that would admit. */
  | { readonly do: 'offer'; readonly sets: readonly (readonly string[])[] };

type None = Readonly<Record<string, never>>;
/** Whether it is said of the address that another one is served from. */
interface Served {
  readonly isServed: boolean;
}

/** What reasons say: each code with the values that its sentence names. Moments are milliseconds since 1970. */
export interface ReasonValues {
  'well-formed': None;
  'not-well-formed': { readonly problem: AddressProblem };

  'primary-host': None;
  'other-host': { readonly host: string; readonly primary: string };
  'host-of-redirects': { readonly host: string };
  'unknown-host': { readonly host: string };

  'protocol-as-required': None;
  'page-requires-https': { readonly page: string };
  'site-requires-https': None;

  'no-redirect': None;
  'redirects-only': { readonly host: string };
  redirected: {
    readonly source: string;
    readonly location: string;
    readonly isPermanent: boolean;
    /** It is a permanent one, and sent as temporary. */
    readonly isDemoted: boolean;
    /** Seconds on a page in between; null where the redirect is at once. */
    readonly wait: number | null;
    readonly note: string | null;
  };
  'other-query': { readonly source: string };
  'not-inverse': { readonly source: string };
  /** What the address redirects to is hidden. */
  'target-hidden': Who;

  'not-yet': NamedRule & { readonly validFrom: number };
  'no-longer': NamedRule & { readonly validUntil: number };
  'for-others': NamedRule & Who & { readonly when: Condition };
  'page-is-there': NamedRule;
  'less-specific': NamedRule;

  'one-form': None;
  'other-address': { readonly address: string; readonly primary: string };
  'other-spelling': { readonly path: string };

  'no-rewrite': None;
  rewritten: { readonly source: string; readonly location: string };
  'no-address-to-serve': { readonly source: string };

  'ungated-open': Served;
  'ungated-signed-in': Served;
  'ungated-closed': Served;
  'ungated-change': None;
  'ungated-change-by-full-access': Who;
  'less-near': { readonly gate: string };
  admitted: GateValues & Who & { readonly right: Right };
  'admitted-by-full-access': Who & { readonly gate: string };
  'not-admitted': GateValues & Who & { readonly then: TurnedAway };

  'no-page': Served;
  'page-found': { readonly page: string; readonly title: string };
  undeclared: None;
  'on-other-server': { readonly origin: string };
  'page-draft': { readonly page: string };
  'page-not-yet': { readonly page: string; readonly validFrom: number };
  'page-no-longer': { readonly page: string; readonly validUntil: number };
  'page-missing-unless': { readonly page: string; readonly condition: Condition };

  'page-leads-to': { readonly page: string; readonly location: string };
  shown: None;
  'no-not-found-rule': None;
  'not-found-rule': { readonly under: string };
}

export type ReasonCode = keyof ReasonValues;

/** A code with its values. */
export type Told<C extends ReasonCode = ReasonCode> = {
  readonly [K in C]: { readonly code: K; readonly values: ReasonValues[K] };
}[C];

/** One step of the explanation of a decision, as plain data; `wording/reason.ts` has the sentences. */
export type Reason = Told & {
  readonly stage: StageName;
  /** Kind and name of the rule in the site file, as in `gate crew-room`; null where none applied. */
  readonly rule: string | null;
  readonly verdict: Verdict;
  /** Where the rule stands in the site file. */
  readonly place: SourceLocation | null;
};
