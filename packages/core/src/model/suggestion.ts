/** What a name that is not known may have meant. */
export interface Suggestion {
  readonly meant: string | null;
  /** Some of the names that are known, where none is near. */
  readonly known: readonly string[];
}
