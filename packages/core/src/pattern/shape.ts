import type { Modifier, Part, Pattern } from '../model/pattern.ts';
import { regexpSource } from './regexp.ts';

/**
 * One segment of a pattern as the index sees it.
 * `mixed` is text and groups within one segment, or a custom group that can't match a slash.
 */
export type Segment =
  | { readonly is: 'literal'; readonly text: string }
  | {
      readonly is: 'mixed';
      readonly prefix: string;
      readonly suffix: string;
      readonly parts: readonly Part[];
      readonly key: string;
    }
  | { readonly is: 'group'; readonly name: string };

/**
 * A pattern without its options, cut into segments: `/a{/b}?` has two shapes, `/a` and `/a/b`.
 * From `tail` on, one part may span several segments.
 */
export interface Shape {
  readonly segments: readonly Segment[];
  readonly tail: Tail | null;
  /** How specific each of its segments is, from the left; the smaller, the more. */
  readonly weights: readonly number[];
}

export interface Tail {
  /** How specific the segment is with which the tail begins. */
  readonly weight: number;
  /** The name of the wildcard when the tail is `/*` and nothing else: then nothing is left to check. */
  readonly wildcard: string | null;
  /** The last segment of the tail where it is plain text; narrows down the candidates. */
  readonly lastSegment: string | null;
}

/** Kinds of segments, the most specific first; in between comes how much plain text stands in one. */
const WEIGHT = {
  literal: 0,
  /** Some plain text, or a regular expression. */
  mixed: 1e6,
  /** The same, going on over several segments. */
  mixedTail: 2e6,
  group: 3e6,
  tail: 4e6,
} as const;
const MOST_TEXT = 1e5;

type Atom = { readonly is: 'text'; readonly value: string } | Exclude<Part, { is: 'text' }>;

const MAX_OPTIONS = 4;
/** A custom group made of these can't match a slash, so that it stays within its segment. */
const WITHIN_SEGMENT = /^(?:\\[dw]|\(\?:|[\w\-~|)]|\[[\w\-~]+\]|[?*+]|\{[\d,]+\})*$/;

/** The shapes of a pattern; one that has too many options counts as one long tail. */
export function shapesOf(parts: readonly Part[]): Shape[] {
  const [only] = parts;
  if (
    parts.length === 1 &&
    only!.is === 'text' &&
    only!.modifier === '' &&
    only!.value.startsWith('/')
  ) {
    // The root is no step down, so that it is the least specific of all sections.
    const segments = only!.value === '/' ? [] : only!.value.slice(1).split('/');
    return [shapeOf(segments.map((text) => ({ is: 'literal', text })))];
  }
  const options = parts.filter(({ modifier }) => modifier === '?' || modifier === '*').length;
  if (options > MAX_OPTIONS) return [shapeOf([], ANYTHING)];
  return withoutOptions(parts).map(cut);
}

function withoutOptions(parts: readonly Part[]): Atom[][] {
  let variants: Atom[][] = [[]];
  for (const part of parts) {
    const always = { ...part, modifier: onceOrMore(part.modifier) } as Atom;
    const isOptional = part.modifier === '?' || part.modifier === '*';
    variants = variants.flatMap((before) =>
      isOptional ? [before, [...before, always]] : [[...before, always]],
    );
  }
  return variants;
}

const onceOrMore = (modifier: Modifier): Modifier =>
  modifier === '*' || modifier === '+' ? '+' : '';

/** The shape of a pattern: how specific each of its segments is, and what stands at its end. */
export function shapeOf(segments: readonly Segment[], tail: Tail | null = null): Shape {
  const weights = segments.map(weightOf);
  if (tail) weights.push(tail.weight);
  return { segments, tail, weights };
}

const ANYTHING: Tail = { weight: WEIGHT.tail, wildcard: null, lastSegment: null };

function weightOf(segment: Segment): number {
  return segment.is === 'mixed' ? WEIGHT.mixed - textIn(segment.parts) : WEIGHT[segment.is];
}

/** How much plain text stands in the parts of a segment. */
const textIn = (parts: readonly Part[]): number =>
  Math.min(
    parts.reduce((length, part) => length + (part.is === 'text' ? part.value.length : 0), 0),
    MOST_TEXT,
  );

function cut(atoms: readonly Atom[]): Shape {
  const segments: Segment[] = [];
  let current: Part[] = [];
  const state = { isBegun: false };
  /** Takes a piece in; whether segments can still be told. */
  const take = (piece: Part | '/'): boolean => {
    if (piece !== '/') current.push(piece);
    else if (!state.isBegun) state.isBegun = true;
    else {
      segments.push(segmentOf(current));
      current = [];
    }
    return state.isBegun;
  };
  for (const [position, atom] of atoms.entries()) {
    if (spans(atom)) {
      // What stands before the part each time stands there the first time in any case.
      const before = atom.is === 'text' ? [] : [...textPieces(atom.prefix)];
      if (!before.every(take)) return shapeOf([], ANYTHING);
      const isPure =
        atom.is === 'wildcard' &&
        atom.modifier === '' &&
        atom.prefix === '/' &&
        atom.suffix === '' &&
        position === atoms.length - 1;
      const text = Math.min(textIn(current) + textBehind(atoms.slice(position)), MOST_TEXT);
      const isMixed = text > 0 || atom.is === 'regexp' || atom.is === 'text';
      return shapeOf(segments, {
        weight: isMixed ? WEIGHT.mixedTail - text : WEIGHT.tail,
        wildcard: isPure && current.length === 0 ? atom.name : null,
        lastSegment: lastSegmentOf(atoms.slice(position)),
      });
    }
    for (const piece of pieces(atom)) if (!take(piece)) return shapeOf([], ANYTHING);
  }
  if (state.isBegun) segments.push(segmentOf(current));
  return shapeOf(segments);
}

/** How much plain text stands behind a part that spans segments, up to a slash. */
function textBehind([part, ...others]: readonly Atom[]): number {
  let length = 0;
  const behind = part!.is === 'text' ? [] : [...textPieces(part!.suffix)];
  for (const piece of [...behind, ...others.flatMap((other) => [...pieces(other)])]) {
    if (piece === '/') break;
    if (piece.is === 'text') length += piece.value.length;
  }
  return length;
}

/** Whether a part may match a slash inside itself. */
function spans(atom: Atom): boolean {
  if (atom.is === 'text') return 'modifier' in atom && atom.modifier === '+';
  if (atom.modifier === '+' || atom.is === 'wildcard') return true;
  return atom.is === 'regexp' && !WITHIN_SEGMENT.test(atom.source);
}

function* pieces(atom: Atom): Generator<Part | '/'> {
  if (atom.is === 'text') {
    yield* textPieces(atom.value);
    return;
  }
  yield* textPieces(atom.prefix);
  yield { ...atom, prefix: '', suffix: '' };
  yield* textPieces(atom.suffix);
}

function* textPieces(text: string): Generator<Part | '/'> {
  for (const piece of text.split(/(\/)/)) {
    if (piece === '/') yield '/';
    else if (piece !== '') yield { is: 'text', value: piece, modifier: '' };
  }
}

function segmentOf(parts: readonly Part[]): Segment {
  const [only] = parts;
  if (parts.every((part) => part.is === 'text')) {
    return { is: 'literal', text: parts.map((part) => part.value).join('') };
  }
  if (parts.length === 1 && only!.is === 'segment') return { is: 'group', name: only!.name };
  const first = parts[0]!;
  const last = parts.at(-1)!;
  return {
    is: 'mixed',
    prefix: first.is === 'text' ? first.value : '',
    suffix: last.is === 'text' ? last.value : '',
    parts,
    key: regexpSource(parts),
  };
}

function lastSegmentOf(atoms: readonly Atom[]): string | null {
  const last = atoms.at(-1)!;
  if (last.is !== 'text' || spans(last)) return null;
  const slash = last.value.lastIndexOf('/');
  return slash === -1 ? null : last.value.slice(slash + 1);
}

/** What two patterns have in common that match the same addresses and differ in the names of their pieces alone. */
export function patternShapeKey({ parts }: Pattern): string {
  return JSON.stringify(parts.map((part) => (part.is === 'text' ? part : { ...part, name: '' })));
}
