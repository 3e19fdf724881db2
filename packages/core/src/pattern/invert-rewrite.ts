import { escapePattern } from './escape.ts';
import type { Group, Part, Pattern } from '../model/pattern.ts';
import type { InversionProblem } from '../model/pattern-problem.ts';
import { parseQuery } from './query.ts';
import { splitQuery } from './target.ts';
import type { Target } from '../model/target.ts';

/** A rule that leads from what is served back to where it is asked for, as it would be written by hand. */
export interface InverseRule {
  readonly from: string;
  readonly to: string;
}

/**
 * Works out the inverse of “`from` is served from `serve`”: which addresses `serve` can give, and
 * which `from` each of them came from. Filling `serve` and turning it round gives the pieces back.
 */
export function invertRewrite(
  from: Pattern,
  serve: Target,
): InverseRule | { readonly problem: InversionProblem } {
  const groups = new Map(groupsOf(from.parts).map((group) => [group.name, group]));
  if (serve.origin !== null) return { problem: { code: 'other-server' } };
  const query = splitQuery(serve.text.replace(/#.*$/s, ''))[1];
  const constraints = query === null ? [] : parseQuery(query);
  if (constraints === null) return { problem: { code: 'field-without-value' } };
  if ([...from.parts, ...serve.path.parts, ...(serve.query?.parts ?? [])].some(isOptional))
    return { problem: { code: 'optional-part' } };
  const inQuery = new Set(constraints.flatMap(({ piece }) => piece ?? []));
  const stray = serve.query?.names.find((name) => !inQuery.has(name));
  if (stray !== undefined) return { problem: { code: 'piece-not-alone' } };
  const inPath = serve.path.names;
  const lost = from.names.find((name) => !inPath.includes(name) && !inQuery.has(name));
  if (lost !== undefined) return { problem: { code: 'piece-lost', piece: pieceName(lost) } };
  const wide = [...groups.values()].filter(spansSteps).map(({ name }) => name);
  const wideInQuery = wide.find((name) => inQuery.has(name));
  if (wideInQuery !== undefined)
    return { problem: { code: 'wide-piece-in-query', piece: pieceName(wideInQuery) } };
  if (wide.length > 1) return { problem: { code: 'several-wide-pieces' } };
  // Each piece takes the form that it has in "from": what could not have come from there is left alone.
  const parts = serve.path.parts.map((part): Part => {
    if (part.is === 'text') return part;
    const { is, source } = groups.get(part.name)!;
    return { ...part, is, source };
  });
  if (touching(parts)) return { problem: { code: 'touching-pieces' } };
  return {
    from: printParts(parts) + (query === null ? '' : `?${query}`),
    to: printParts(from.parts.map((part) => (part.is === 'text' ? part : plainPiece(part)))),
  };
}

const groupsOf = (parts: readonly Part[]): Group[] =>
  parts.filter((part): part is Group => part.is !== 'text');

const isOptional = ({ modifier }: Part): boolean => modifier !== '';

/** A wildcard, or a custom group that does not keep to one step. */
const spansSteps = ({ is, source }: Group): boolean =>
  is === 'wildcard' ||
  (is === 'regexp' && !/^(?:\\[dw]|\[[\w-]+\]|[\w-])(?:[+*?]|\{\d+(?:,\d*)?\})?$/.test(source));

function touching(parts: readonly Part[]): boolean {
  let between = '/';
  for (const part of parts) {
    if (part.is === 'text') {
      between += part.value;
      continue;
    }
    if (!(between + part.prefix).includes('/')) return true;
    between = part.suffix;
  }
  return false;
}

/** A piece of a target, which says nothing of its form. */
const plainPiece = (part: Group): Group => ({
  ...part,
  is: /^\d/.test(part.name) ? 'wildcard' : 'segment',
});

function printParts(parts: readonly Part[]): string {
  return parts
    .map((part) => {
      if (part.is === 'text') return escapePattern(part.value);
      const name = /^\d/.test(part.name) ? '' : `:${part.name}`;
      const form =
        part.is === 'regexp' ? `(${part.source})` : part.is === 'segment' ? '' : name && '(.*)';
      const piece = `${name}${form}` || '*';
      const isPlain = part.suffix === '' && part.prefix === '/';
      return isPlain
        ? `/${piece}`
        : `{${escapePattern(part.prefix)}${piece}${escapePattern(part.suffix)}}`;
    })
    .join('');
}

/** How a piece is called: by its name, or as what it is where it has none. */
export const pieceName = (piece: string): string =>
  /^\d+$/.test(piece) ? 'an unnamed piece (*)' : `":${piece}"`;
