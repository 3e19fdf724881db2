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

/** One error of a site file: what, where, and how to mend it. */
export interface SiteError {
  readonly code: SiteErrorCode;
  readonly file: string;
  readonly line: number;
  readonly column: number;
  readonly message: string;
  readonly remedy: string;
}

/** A change of a site file: one operation of JSON Patch (RFC 6902). */
export type PatchOperation =
  | { readonly op: 'add'; readonly path: string; readonly value: unknown }
  | { readonly op: 'replace'; readonly path: string; readonly value: unknown }
  | { readonly op: 'test'; readonly path: string; readonly value: unknown }
  | { readonly op: 'remove'; readonly path: string }
  | { readonly op: 'move'; readonly from: string; readonly path: string }
  | { readonly op: 'copy'; readonly from: string; readonly path: string };

/** Something that looks wrong in a site file which can be read, with how to mend it. */
export interface Finding {
  readonly code: string;
  readonly severity: 'high' | 'medium' | 'low';
  /** What it is about, such as `gate crew-room`; a finding is accepted by its code and this. */
  readonly about: string;
  readonly file: string;
  readonly line: number;
  readonly column: number;
  readonly message: string;
  readonly remedy: string;
  /** The change of the site file that mends it, where there is a small one. */
  readonly fix: readonly PatchOperation[] | null;
}
