import type { Situation } from '../condition/evaluate.ts';
import type { Operator, Value } from '../model/condition.ts';
import type { Visitor } from '../model/visitor.ts';
import type { Compared, Piece } from './attribute-values.ts';

/** What is known of an address: its pieces, and its query. */
export interface KnownAddress {
  readonly path: Situation['path'];
  readonly query: string;
  /** The query may have any other fields, too. */
  readonly isQueryOpen?: boolean;
}

/** The same comparison with its sides changed. */
export const TURNED: Readonly<Record<Operator, Operator>> = {
  '=': '=',
  '!=': '!=',
  '<': '>',
  '<=': '>=',
  '>': '<',
  '>=': '<=',
  in: '=',
};

/** A value that differs from one visitor, or one address, to the next. */
export const isOpen = (value: Value): boolean =>
  value.is === 'list' ? value.of.some(isOpen) : keyOf(value) !== '';

/** A value of the visitor, but for the language. */
export const isOfVisitor = ({ is }: Value): boolean => is === 'visitor';

/** What names such a value; empty for a constant. */
export function keyOf(value: Value): Compared {
  switch (value.is) {
    case 'visitor':
    case 'path':
    case 'query':
      return `${value.is}.${value.name}`;
    case 'language':
      return 'language';
    default:
      return '';
  }
}

/**
 * A value with what is known of the address put in; null where that is absent.
 *
 * @param pieces by a value that stands for them: the pieces that may be anything
 */
export function resolve(
  value: Value,
  address: KnownAddress | null,
  pieces: ReadonlyMap<string, Piece>,
): Value | null {
  switch (value.is) {
    case 'list':
      return { is: 'list', of: value.of.flatMap((one) => resolve(one, address, pieces) ?? []) };
    case 'path':
    case 'query': {
      const { is, name } = value;
      if (address === null) return value;
      // A rewrite or a redirect may have put a piece into the query.
      const text =
        is === 'path' ? address.path[name] : new URLSearchParams(address.query).get(name);
      if (text === null && address.isQueryOpen === true) return value;
      const piece = text == null ? undefined : pieces.get(text);
      return piece ? { is: 'path', name: piece.name } : asText(text);
    }
    default:
      return value;
  }
}

/** The same, but what is a part of a piece that may be anything stays open, too: it stands for all that it may be. */
export function resolveWhole(
  value: Value,
  address: KnownAddress | null,
  pieces: ReadonlyMap<string, Piece>,
): Value | null {
  if (value.is === 'list')
    return { is: 'list', of: value.of.flatMap((one) => resolveWhole(one, address, pieces) ?? []) };
  const resolved = resolve(value, address, pieces);
  const isPart =
    (value.is === 'path' || value.is === 'query') &&
    resolved?.is === 'string' &&
    [...pieces.keys()].some((whole) => whole !== resolved.value && whole.includes(resolved.value));
  return isPart ? value : resolved;
}

const asText = (value: string | null | undefined): Value | null =>
  value === null || value === undefined ? null : { is: 'string', value };

/** Whether a visitor has a value. */
export function isPresent(key: Compared, { guest, id, language, attributes }: Visitor): boolean {
  if (key === 'language') return language !== null;
  if (key === 'visitor.id') return id !== null;
  const name = key.slice('visitor.'.length);
  const value = !guest && Object.hasOwn(attributes, name) ? attributes[name] : undefined;
  return value !== undefined && !(Array.isArray(value) && value.length === 0);
}
