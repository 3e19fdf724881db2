import type { Operator, Value } from '../model/condition.ts';
import type { Visitor } from '../model/visitor.ts';
import type { Compared } from './attribute-values.ts';

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

/** A text as a value; null where it is absent. */
export const asText = (value: string | null | undefined): Value | null =>
  value === null || value === undefined ? null : { is: 'string', value };

/** Whether a visitor has a value. */
export function isPresent(key: Compared, { guest, id, language, attributes }: Visitor): boolean {
  if (key === 'language') return language !== null;
  if (key === 'visitor.id') return id !== null;
  const name = key.slice('visitor.'.length);
  const value = !guest && Object.hasOwn(attributes, name) ? attributes[name] : undefined;
  return value !== undefined && !(Array.isArray(value) && value.length === 0);
}
