/** Which spellings of an address are the same, and which of them is the one that the others redirect to. */
export interface Tidy {
  /** Whether letter case makes no difference. */
  readonly case: 'lower' | 'keep';
  readonly finalSlash: 'drop' | 'add' | 'keep';
  /** Endings of the last segment that are dropped, such as `.html`. */
  readonly endings: readonly string[];
  /** Names of a last segment that stand for the section, such as `index`. */
  readonly index: readonly string[];
  /** Other addresses of the home page, in the form that rules are matched against. */
  readonly homes: readonly string[];
  /** What separates words; underscores, plus signs and spaces become this. */
  readonly words: '-' | '_' | 'keep';
  /** Characters in segments that are refused as ambiguous unless they are listed here. */
  readonly allow: readonly AmbiguousCharacter[];
}

export const USUAL_TIDY: Tidy = {
  case: 'lower',
  finalSlash: 'drop',
  endings: [],
  index: [],
  homes: [],
  words: 'keep',
  allow: [],
};

/** Characters that some servers read as the end of a segment or of the path. */
export const AMBIGUOUS_CHARACTERS = [';', '?', '#', '.', ' '] as const;

export type AmbiguousCharacter = (typeof AMBIGUOUS_CHARACTERS)[number];
