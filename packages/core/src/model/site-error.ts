/** What can be wrong with a site file. */
export type SiteErrorCode =
  | 'yaml'
  | 'wrong-type'
  | 'missing-field'
  | 'unknown-field'
  | 'wrong-value'
  | 'not-yet'
  | 'condition'
  | 'pattern'
  | 'address'
  | 'date'
  | 'unknown-role'
  | 'unknown-group'
  | 'unknown-product'
  | 'unknown-audience'
  | 'unknown-piece'
  | 'audience-circle'
  | 'same-address'
  | 'no-such-list'
  | 'csv'
  | 'too-large';

/** One error of a site file: what, where, and how to fix it. */
export interface SiteError {
  readonly code: SiteErrorCode;
  readonly file: string;
  readonly line: number;
  readonly column: number;
  readonly message: string;
  readonly remedy: string;
}
