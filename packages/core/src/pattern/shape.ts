import type { Modifier, Part } from './pattern.ts';
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
}

export interface Tail {
  /** The name of the wildcard when the tail is `/*` and nothing else: then nothing is left to check. */
  readonly wildcard: string | null;
  /** The last segment of the tail where it is plain text; narrows down the candidates. */
  readonly lastSegment: string | null;
}

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
    return [{ segments: segments.map((text) => ({ is: 'literal', text })), tail: null }];
  }
  const options = parts.filter(({ modifier }) => modifier === '?' || modifier === '*').length;
  if (options > MAX_OPTIONS) return [{ segments: [], tail: { wildcard: null, lastSegment: null } }];
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

function cut(atoms: readonly Atom[]): Shape {
  const segments: Segment[] = [];
  let current: Part[] = [];
  const close = (): void => {
    segments.push(segmentOf(current));
    current = [];
  };
  let isFirst = true;
  for (const [position, atom] of atoms.entries()) {
    if (spans(atom)) {
      const opensSegment = atom.is !== 'text' && atom.prefix === '/' && !isFirst;
      if (opensSegment) close();
      const isPure =
        atom.is === 'wildcard' &&
        atom.modifier === '' &&
        atom.prefix === '/' &&
        atom.suffix === '' &&
        position === atoms.length - 1;
      return {
        segments,
        tail: {
          wildcard: isPure && current.length === 0 ? atom.name : null,
          lastSegment: lastSegmentOf(atoms.slice(position)),
        },
      };
    }
    for (const piece of pieces(atom)) {
      if (piece === '/') {
        if (!isFirst) close();
        isFirst = false;
      } else {
        if (isFirst) return { segments: [], tail: { wildcard: null, lastSegment: null } };
        current.push(piece);
      }
    }
  }
  if (!isFirst) close();
  return { segments, tail: null };
}

/** Whether a part may match a slash inside itself. */
function spans(atom: Atom): boolean {
  if (atom.is === 'text') return 'modifier' in atom && atom.modifier === '+';
  if (atom.modifier === '+' || atom.is === 'wildcard') return true;
  return atom.is === 'regexp' && !WITHIN_SEGMENT.test(atom.source);
}

function* pieces(atom: Atom): Generator<Part | '/'> {
  const text = function* (value: string): Generator<Part | '/'> {
    for (const piece of value.split(/(\/)/)) {
      if (piece === '/') yield '/';
      else if (piece !== '') yield { is: 'text', value: piece, modifier: '' };
    }
  };
  if (atom.is === 'text') {
    yield* text(atom.value);
    return;
  }
  yield* text(atom.prefix);
  yield { ...atom, prefix: '', suffix: '' };
  yield* text(atom.suffix);
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
