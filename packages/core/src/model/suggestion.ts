/** What a name that is not known may have meant. */
export interface Suggestion {
  readonly meant: string | null;
  /** The word to write before the name, if a role, group or product has it. */
  readonly kind?: 'role' | 'group' | 'bought';
  /** Some of the names that are known, where none is near. */
  readonly known: readonly string[];
}
