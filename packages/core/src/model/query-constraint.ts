/** One field that a query must have, with this value or with any that a named piece takes. */
export interface QueryConstraint {
  readonly field: string;
  readonly value: string | null;
  /** The name of the piece; null where the value is given, or does not matter. */
  readonly piece: string | null;
}
