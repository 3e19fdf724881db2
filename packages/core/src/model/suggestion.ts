/** What a name that is not known may have meant. */
export interface Suggestion {
  readonly meant: string | null;
  /** What has the very name, where it must be said: a role, a group or a person. */
  readonly kind?: 'role' | 'group' | 'bought';
  /** Some of the names that are known, where none is near. */
  readonly known: readonly string[];
}
