import type { ReadableCondition } from './clause.ts';
import type { Condition } from './condition.ts';
import type { PatchOperation } from './patch-operation.ts';
import type { Scope } from './site.ts';
import type { SourceLocation } from './source-location.ts';

/** Some of those there could be: everyone, or exactly whom a condition fits. */
export type People = 'everyone' | ReadableCondition;

/** What findings say: each code with the values that its sentences name. Moments are milliseconds since 1970. */
export interface FindingValues {
  'sign-in-closed': {
    readonly address: string;
    readonly outcome: string;
    /** The method of the request that fails. */
    readonly method: 'GET' | 'POST';
    /** A gate closes it; otherwise it is no page. */
    readonly isGated: boolean;
    /** How many other findings follow from this one, and are left out. */
    readonly consequences: number;
  };
  'legal-page-closed': {
    readonly page: string;
    readonly title: string;
    readonly outcome: string;
  };
  'newcomer-page-closed': {
    readonly page: string;
    readonly need: 'home' | 'registration' | 'asset';
  };
  'landing-closed': {
    readonly after: 'sign-in' | 'sign-out';
    readonly who: People;
    readonly address: string;
  };
  'sends-to-closed': {
    readonly gate: string;
    /** The gate sends people there, or offers what is sold there. */
    readonly by: 'send' | 'offer';
    readonly to: string;
    /** Whom the page does not let in; null where there is no such page. */
    readonly who: People | null;
  };
  'shows-missing': {
    readonly by: 'gate' | 'not-found' | 'product';
    readonly name: string;
    readonly address: string;
  };
  'target-undeclared': {
    /** `scope`: a gate is at the address. */
    readonly by:
      | 'site'
      | 'gate'
      | 'scope'
      | 'not-found'
      | 'product'
      | 'redirect'
      | 'rewrite'
      | 'menu'
      | 'landing';
    readonly name: string;
    readonly address: string;
    /** The declared address that is closest; null if none is close. */
    readonly meant: string | null;
  };
  'open-beneath': {
    readonly gate: string;
    readonly above: string;
    readonly who: People;
    readonly scopes: readonly Scope[];
    /** The gate stands at single pages. */
    readonly isException: boolean;
  };
  'hidden-revealed': {
    readonly gate: string;
    readonly above: string;
    readonly who: People;
    /** What it answers instead of “missing”. */
    readonly answer: 'sign-in' | 'refuse' | 'send' | 'offer';
  };
  'full-access-wide': { readonly condition: Condition };
  'change-without-view': {
    readonly gate: string;
    readonly who: People;
    readonly page: string;
  };
  'nobody-reaches': {
    readonly page: string;
    /** What can't be met; null where a gate admits nobody. */
    readonly unmet: Condition | null;
    readonly isByFullAccess: boolean;
    readonly gates: readonly string[];
    /** The address that the page leads to; null where it leads nowhere else. */
    readonly leadsTo: string | null;
  };
  'offers-nothing': { readonly gate: string };
  'product-unused': { readonly product: string };
  'product-not-sold': { readonly gate: string; readonly product: string };
  'buyer-kept-out': {
    readonly gate: string;
    readonly product: string;
    readonly pages: readonly string[];
    /** How many pages are not named. */
    readonly others: number;
  };
  'otherwise-unused': {
    readonly gate: string;
    /** Counted from 1. */
    readonly entry: number;
    readonly condition: Condition;
  };
  'gate-covers-nothing': { readonly gate: string; readonly scopes: readonly Scope[] };
  'menu-leads-nowhere': {
    readonly menu: string;
    readonly links: readonly { readonly link: string; readonly who: People }[];
  };
  'menu-redirects': {
    readonly menu: string;
    readonly link: string;
    readonly location: string | null;
  };
  'unlisted-linked': { readonly page: string; readonly menu: string };
  'redirect-loop': {
    readonly source: string;
    readonly target: string;
    /** Source and target are one address of the site, in two spellings or in one. */
    readonly isItself: boolean;
    readonly address: string;
    readonly met: readonly string[];
    readonly who: People;
  };
  'redirect-chain': { readonly source: string; readonly met: readonly string[] };
  'redirect-shadowed': {
    readonly source: string;
    /** The redirects that come first. */
    readonly before: readonly { readonly source: string; readonly line: number }[];
  };
  'redirect-dead-end': {
    readonly source: string;
    readonly location: string;
    /** Null for everyone whom it redirects. */
    readonly who: People | null;
  };
  'redirect-hides-page': {
    readonly source: string;
    readonly pages: readonly string[];
    readonly isForEveryone: boolean;
  };
  'redirect-to-closed': {
    readonly source: string;
    readonly location: string;
    readonly who: People;
  };
  'redirect-permanent-for-some': { readonly source: string };
  'rewrite-dead-end': { readonly source: string; readonly served: string };
  'rewrite-hides-page': {
    readonly source: string;
    readonly pages: readonly string[];
    readonly serve: string;
    readonly isForEveryone: boolean;
  };
  'rewrite-round-gate': {
    readonly source: string;
    readonly gate: string;
    readonly who: ReadableCondition;
    readonly serve: string;
    readonly served: string;
  };
  'no-example': { readonly page: string; readonly example: string };
  'person-page-clash': {
    readonly page: string;
    readonly pattern: string;
    /** The visitor whose name it is; null where a gate compares the piece with names. */
    readonly visitor: string | null;
  };
  'date-passed': {
    readonly kind: 'page' | 'gate' | 'redirect' | 'rewrite';
    readonly name: string;
    readonly validUntil: number;
  };
  tie: {
    readonly kind: string;
    readonly rules: readonly { readonly name: string; readonly line: number }[];
    /** The address that all are for; null where they are for the same ones. */
    readonly address: string | null;
  };
  'draft-waited': {
    readonly version: number;
    /** How many days it has not been released. */
    readonly days: number;
  };
  'too-many-cases': Readonly<Record<string, never>>;
  'unused-acceptance': { readonly finding: string; readonly about: string | null };
}

export type FindingCode = keyof FindingValues;

/** A code with its values. */
export type ToldFinding<C extends FindingCode = FindingCode> = {
  readonly [K in C]: { readonly code: K; readonly values: FindingValues[K] };
}[C];

/** What a finding is about. */
export interface Subject {
  /** Several rules that only together are wrong have the plural. */
  readonly kind:
    | 'site'
    | 'page'
    | 'gate'
    | 'gates'
    | 'redirect'
    | 'redirects'
    | 'rewrite'
    | 'rewrites'
    | 'menu'
    | 'product'
    | 'landing'
    | 'not-found'
    | 'visitor'
    | 'accepted';
  /** Its name or address; those of several with commas between. */
  readonly name: string;
}

/** What a finding is about, as acceptances name it: `gate crew-room`. */
export const aboutOf = ({ kind, name }: Subject): string => `${kind} ${name}`;

export type Severity = 'high' | 'medium' | 'low';

/** What looks wrong in a site, as plain data; `wording/finding.ts` has the sentences. */
export type FindingDraft = ToldFinding & {
  readonly severity: Severity;
  readonly subject: Subject;
  readonly place: SourceLocation;
  /** The change of the site file that fixes it, where there is a small one. */
  readonly fix?: readonly PatchOperation[] | null;
};

/** Something that looks wrong in a site file which can be read, with how to fix it. */
export interface Finding {
  readonly code: FindingCode;
  readonly severity: Severity;
  readonly subject: Subject;
  /** The subject as a text, such as `gate crew-room`; a finding is accepted by its code and this. */
  readonly about: string;
  /** What its sentences name; conditions and sections as a site file writes them. */
  readonly values: Readonly<Record<string, unknown>>;
  readonly file: string;
  readonly line: number;
  readonly column: number;
  readonly message: string;
  readonly remedy: string;
  readonly fix: readonly PatchOperation[] | null;
}
