import type { ConditionProblem } from './condition-problem.ts';
import type { CsvProblem } from './csv-problem.ts';
import type { InversionProblem, PatternProblem } from './pattern-problem.ts';
import type { Suggestion } from './suggestion.ts';

/** What the value of a field must be. */
export type WantedType = 'text' | 'integer' | 'flag' | 'one-or-list' | 'names' | 'attributes';

/** Why what a guarantee demands can't be proved or refuted. */
export type GuaranteeFault =
  /** It has neither or both of `never` and `always`. */
  | 'one-demand'
  /** `change`, `permanent` and `never: reach` stand alone. */
  | 'alone'
  /** `permanent` and `hops` are for old addresses, and those for nothing else. */
  | 'old-addresses'
  /** Old addresses and links have no `under` or `at`. */
  | 'no-scope'
  /** The condition is about the address, or compares two values of the visitor. */
  | 'open-condition';

/** Everything that can be wrong with a site file, as plain data; `wording/site-problem.ts` has the sentences. */
export type SiteProblem =
  | { readonly code: 'not-yaml' | 'too-many-aliases'; readonly detail: string }
  | { readonly code: 'key-twice' | 'empty-entry'; readonly name: string }
  | { readonly code: 'too-large'; readonly limit: number }
  | { readonly code: 'not-a-site-file' }
  | { readonly code: 'no-version' | 'other-version'; readonly version: number }
  | { readonly code: 'section-type'; readonly section: string; readonly is: 'map' | 'list' }
  | { readonly code: 'unknown-section'; readonly name: string; readonly suggestion: Suggestion }
  | { readonly code: 'not-a-map' | 'not-a-list'; readonly what: string }
  /** `field` is null for the whole entry. */
  | { readonly code: 'wrong-type'; readonly field: string | null; readonly wanted: WantedType }
  | { readonly code: 'condition-list'; readonly field: string; readonly items: readonly string[] }
  /** An address with a part that browsers keep to themselves. */
  | { readonly code: 'fragment'; readonly text: string; readonly without: string }
  | { readonly code: 'missing-field'; readonly field: string; readonly example: string }
  | { readonly code: 'guarantee'; readonly fault: GuaranteeFault }
  | { readonly code: 'nothing-expected' }
  | { readonly code: 'gate-without-scope' | 'not-found-without-content' }
  | {
      readonly code: 'unknown-field';
      readonly field: string;
      readonly of: string;
      readonly suggestion: Suggestion;
    }
  | {
      readonly code: 'not-one-of';
      readonly field: string;
      readonly value: unknown;
      readonly choices: readonly string[];
      readonly suggestion: Suggestion;
    }
  | { readonly code: 'only-with'; readonly field: string; readonly wanted: string }
  | { readonly code: 'condition'; readonly problem: ConditionProblem }
  | { readonly code: 'pattern'; readonly problem: PatternProblem }
  | { readonly code: 'csv'; readonly problem: CsvProblem }
  | {
      readonly code:
        | 'unknown-role'
        | 'unknown-group'
        | 'unknown-product'
        | 'unknown-audience'
        | 'unknown-visitor';
      readonly name: string;
      readonly suggestion: Suggestion;
    }
  /** A target uses a piece that its rule does not match. */
  | {
      readonly code: 'unknown-piece';
      readonly field: string;
      readonly piece: string;
      readonly suggestion: Suggestion;
    }
  /** A condition compares a piece that the address does not have; `suggestion` is null where it has none at all. */
  | {
      readonly code: 'unknown-path-value';
      readonly name: string;
      readonly suggestion: Suggestion | null;
    }
  | { readonly code: 'pattern-without-slash' | 'not-a-page-address'; readonly text: string }
  | { readonly code: 'not-a-query'; readonly query: string }
  /** A question mark makes a piece optional where a query seems to be meant, as `corrected` has it. */
  | { readonly code: 'misread-query'; readonly corrected: string }
  | { readonly code: 'not-a-host' | 'not-an-address' | 'not-a-duration'; readonly text: string }
  | { readonly code: 'bundle-in-itself'; readonly product: string }
  | { readonly code: 'not-a-time-zone' | 'not-an-ending' | 'not-an-index'; readonly text: string }
  | { readonly code: 'not-of-this-page'; readonly text: string; readonly pattern: string }
  | { readonly code: 'not-a-date'; readonly text: string; readonly isInCondition: boolean }
  | { readonly code: 'period-reversed'; readonly from: string }
  | {
      readonly code: 'not-refused';
      readonly character: string;
      readonly choices: readonly string[];
    }
  | { readonly code: 'same-page'; readonly address: string; readonly other: string }
  | { readonly code: 'alias-taken'; readonly alias: string; readonly owner: string }
  | { readonly code: 'alias-is-pattern'; readonly alias: string }
  | { readonly code: 'alias-of-pattern' }
  | { readonly code: 'guest-with'; readonly field: 'id' | 'roles' | 'groups' | 'bought' }
  | { readonly code: 'reserved-word' | 'unwritable-name'; readonly name: string }
  | { readonly code: 'invisible-character'; readonly name: string; readonly character: string }
  | { readonly code: 'names-look-alike'; readonly name: string; readonly other: string }
  | { readonly code: 'audience-circle'; readonly circle: readonly string[] }
  | { readonly code: 'audience-too-deep'; readonly limit: number }
  | { readonly code: 'no-such-list'; readonly name: string }
  | { readonly code: 'unknown-column'; readonly name: string; readonly columns: readonly string[] }
  | { readonly code: 'say-without-wait' | 'wait-permanent' | 'fragment-served' }
  | { readonly code: 'server-not-allowed'; readonly origin: string }
  | { readonly code: 'no-inverse'; readonly problem: InversionProblem };

/** The kinds of problems, of which programs read one from an error without knowing all problems. */
export type SiteErrorCode =
  | 'yaml'
  | 'wrong-type'
  | 'missing-field'
  | 'unknown-field'
  | 'wrong-value'
  | 'condition'
  | 'pattern'
  | 'address'
  | 'date'
  | 'unknown-role'
  | 'unknown-group'
  | 'unknown-product'
  | 'unknown-audience'
  | 'unknown-visitor'
  | 'unknown-piece'
  | 'audience-circle'
  | 'same-address'
  | 'no-such-list'
  | 'csv'
  | 'too-large';

/** The kind of each problem. */
export const ERROR_CODES: Readonly<Record<SiteProblem['code'], SiteErrorCode>> = {
  'not-yaml': 'yaml',
  'too-many-aliases': 'yaml',
  'key-twice': 'yaml',
  'too-large': 'too-large',
  'not-a-site-file': 'wrong-type',
  'section-type': 'wrong-type',
  'empty-entry': 'wrong-type',
  'not-a-map': 'wrong-type',
  'not-a-list': 'wrong-type',
  'wrong-type': 'wrong-type',
  'condition-list': 'wrong-type',
  fragment: 'pattern',
  'no-version': 'missing-field',
  'missing-field': 'missing-field',
  'gate-without-scope': 'missing-field',
  'nothing-expected': 'missing-field',
  'unknown-visitor': 'unknown-visitor',
  guarantee: 'wrong-value',
  'not-found-without-content': 'missing-field',
  'unknown-section': 'unknown-field',
  'unknown-field': 'unknown-field',
  'other-version': 'wrong-value',
  'not-one-of': 'wrong-value',
  'only-with': 'wrong-value',
  'not-a-duration': 'wrong-value',
  'bundle-in-itself': 'wrong-value',
  'not-a-time-zone': 'wrong-value',
  'not-an-ending': 'wrong-value',
  'not-an-index': 'wrong-value',
  'not-refused': 'wrong-value',
  'alias-is-pattern': 'wrong-value',
  'alias-of-pattern': 'wrong-value',
  'guest-with': 'wrong-value',
  'reserved-word': 'wrong-value',
  'unwritable-name': 'wrong-value',
  'invisible-character': 'wrong-value',
  'names-look-alike': 'wrong-value',
  'say-without-wait': 'wrong-value',
  'wait-permanent': 'wrong-value',
  'fragment-served': 'wrong-value',
  'server-not-allowed': 'wrong-value',
  'no-inverse': 'wrong-value',
  condition: 'condition',
  pattern: 'pattern',
  'pattern-without-slash': 'pattern',
  'not-a-query': 'pattern',
  'misread-query': 'pattern',
  'not-a-page-address': 'address',
  'not-a-host': 'address',
  'not-an-address': 'address',
  'not-of-this-page': 'address',
  'not-a-date': 'date',
  'period-reversed': 'date',
  'unknown-role': 'unknown-role',
  'unknown-group': 'unknown-group',
  'unknown-product': 'unknown-product',
  'unknown-audience': 'unknown-audience',
  'unknown-piece': 'unknown-piece',
  'unknown-path-value': 'unknown-piece',
  'audience-circle': 'audience-circle',
  'audience-too-deep': 'audience-circle',
  'same-page': 'same-address',
  'alias-taken': 'same-address',
  'no-such-list': 'no-such-list',
  csv: 'csv',
  'unknown-column': 'csv',
};

/** One error of a site file: what and where. */
export interface SiteError {
  readonly code: SiteErrorCode;
  readonly file: string;
  readonly line: number;
  readonly column: number;
  readonly problem: SiteProblem;
}
