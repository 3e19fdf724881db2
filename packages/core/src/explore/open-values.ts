import type { Situation } from '../condition/evaluate.ts';
import type { Operator, Value } from '../model/condition.ts';
import type { Visitor } from '../model/visitor.ts';
import type { Compared, Piece } from './attribute-values.ts';

/** What is known of an address: its pieces, and its query; null for one that may be any. */
export interface KnownAddress {
  readonly path: Situation['path'];
  readonly query: string | null;
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
    case 'path': {
      if (address === null) return value;
      const text = address.path[value.name];
      const piece = text === undefined ? undefined : pieces.get(text);
      return piece ? { is: 'path', name: piece.name } : asText(text);
    }
    case 'query':
      return address?.query == null
        ? value
        : asText(new URLSearchParams(address.query).get(value.name));
    default:
      return value;
  }
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
