/** How often a part may stand: as it is, at most once, any number of times, at least once. */
export type Modifier = '' | '?' | '*' | '+';

/** One part of a pattern, as in the part list of the WHATWG URL Pattern Standard. */
export type Part =
  | { readonly is: 'text'; readonly value: string; readonly modifier: Modifier }
  | {
      readonly is: 'segment' | 'wildcard' | 'regexp';
      readonly name: string;
      readonly prefix: string;
      readonly suffix: string;
      readonly modifier: Modifier;
      /** The source of the custom group; empty for the other two. */
      readonly source: string;
    };

export type Group = Exclude<Part, { is: 'text' }>;

/** A parsed pathname pattern. */
export interface Pattern {
  /** The pattern as its author wrote it. */
  readonly text: string;
  readonly parts: readonly Part[];
  /** The names of its groups from left to right; unnamed ones are numbered from "0". */
  readonly names: readonly string[];
  readonly ignoreCase: boolean;
}

/** The one address that a pattern without groups stands for; null when it stands for many. */
export function literalOf(pattern: Pattern): string | null {
  const [only, ...others] = pattern.parts;
  if (only === undefined) return '';
  return others.length === 0 && only.is === 'text' && only.modifier === '' ? only.value : null;
}
