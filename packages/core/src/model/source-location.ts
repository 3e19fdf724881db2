/** Where something stands in the site file; both count from 1. */
export interface SourceLocation {
  /** The list beside the site file that it stands in; absent for the site file itself. */
  readonly file?: string;
  readonly line: number;
  readonly column: number;
}
