import { countedIn, graceOf, type Products } from './product-terms.ts';
import { stateOf } from './purchase-state.ts';
import type { Condition, Operator, Value } from '../model/condition.ts';
import type { Attribute, Visitor } from '../model/visitor.ts';
import { readInstant } from '../time/instant.ts';

/** What a condition may look at, and nothing else. */
export interface Situation {
  readonly visitor: Visitor;
  /** The moment of the request, in milliseconds since 1970. */
  readonly at: number;
  /** What the pattern of the rule or page matched in the path, percent-decoded. */
  readonly path: Readonly<Record<string, string>>;
  /** The query as sent, without the question mark. */
  readonly query: string;
}

/** The names that a condition refers to, resolved once for a site. */
export interface Names {
  readonly audiences: ReadonlyMap<string, Condition>;
  readonly timeZone: string;
  readonly products?: Products;
}

/**
 * Whether a condition holds for a visitor and a request.
 * A guest has no roles, groups or purchases; a comparison with an absent value is false.
 */
export function evaluate(condition: Condition, situation: Situation, names: Names): boolean {
  return evaluateIn(condition, situation, names, { audiences: null });
}

/** What each audience came to in one situation: one may stand in another many times over. */
interface Known {
  audiences: Map<string, boolean> | null;
}

function evaluateIn(
  condition: Condition,
  situation: Situation,
  names: Names,
  known: Known,
): boolean {
  const { visitor } = situation;
  switch (condition.is) {
    case 'anyone':
      return true;
    case 'nobody':
      return false;
    case 'guest':
      return visitor.guest;
    case 'signed-in':
      return !visitor.guest;
    case 'role':
      return !visitor.guest && visitor.roles.includes(condition.name);
    case 'group':
      return !visitor.guest && visitor.groups.includes(condition.name);
    case 'person':
      return !visitor.guest && visitor.id === condition.name;
    case 'bought':
      return !visitor.guest && hasPurchase(visitor, condition, situation.at, names);
    case 'audience':
      return isInAudience(condition.name, situation, names, known);
    case 'not':
      return !evaluateIn(condition.of, situation, names, known);
    case 'and':
      for (const inner of condition.of)
        if (!evaluateIn(inner, situation, names, known)) return false;
      return true;
    case 'or':
      for (const inner of condition.of) if (evaluateIn(inner, situation, names, known)) return true;
      return false;
    case 'compare':
      return compare(
        condition.left,
        condition.operator,
        condition.right,
        situation,
        names.timeZone,
      );
  }
}

function isInAudience(name: string, situation: Situation, names: Names, known: Known): boolean {
  const before = known.audiences?.get(name);
  if (before !== undefined) return before;
  const audience = names.audiences.get(name);
  const isIn = audience !== undefined && evaluateIn(audience, situation, names, known);
  (known.audiences ??= new Map<string, boolean>()).set(name, isIn);
  return isIn;
}

/** Whether the purchases of a product, and of the bundles that it is part of, are as a condition asks. */
function hasPurchase(
  { bought }: Visitor,
  { product, state }: Extract<Condition, { is: 'bought' }>,
  at: number,
  { products }: Names,
): boolean {
  let isAsked = false;
  for (const purchase of bought) {
    if (!countedIn(product, products).includes(purchase.product)) continue;
    if (state === 'ever') return true;
    const own = stateOf(purchase, graceOf(purchase.product, products), at);
    if (own === 'in-force') return state === 'in-force';
    isAsked ||= own === state;
  }
  return isAsked;
}

/** One value as it is compared; a date stands for a moment and compares with nothing else. */
type Plain = string | number | boolean | { readonly moment: number };

const NONE: readonly Plain[] = [];

/**
 * Compares two values, of which each may be several: one that is equal is enough for `=`, and none may be for
 * `!=`; several have no order. What is absent compares with nothing.
 */
function compare(
  left: Value,
  operator: Operator,
  right: Value,
  situation: Situation,
  zone: string,
): boolean {
  const a = valuesOf(left, situation, zone);
  const b = valuesOf(right, situation, zone);
  if (a.length === 0 || b.length === 0) return false;
  if (operator === '!=') return !isAny(a, b, (sign) => sign === 0, zone);
  const isOrder = operator !== '=' && operator !== 'in';
  if (isOrder && (a.length > 1 || b.length > 1)) return false;
  return isAny(a, b, (sign) => fits(operator, sign), zone);
}

const isAny = (
  a: readonly Plain[],
  b: readonly Plain[],
  isRight: (sign: number | null) => boolean,
  zone: string,
): boolean => a.some((one) => b.some((other) => isRight(order(one, other, zone))));

function fits(operator: Exclude<Operator, '!='>, sign: number | null): boolean {
  if (sign === null) return false;
  switch (operator) {
    case '=':
    case 'in':
      return sign === 0;
    case '<':
      return sign < 0;
    case '<=':
      return sign <= 0;
    case '>':
      return sign > 0;
    case '>=':
      return sign >= 0;
  }
}

/**
 * Orders two values: as moments where one is a date or both are written as dates, as numbers where one is a
 * number, as text otherwise; null where they have no order.
 */
function order(a: Plain, b: Plain, zone: string): number | null {
  if (typeof a === 'object' || typeof b === 'object') {
    const [x, y] = [momentOf(a, zone), momentOf(b, zone)];
    return x === null || y === null ? null : x - y;
  }
  if (typeof a === 'boolean' || typeof b === 'boolean') return String(a) === String(b) ? 0 : null;
  if (typeof a === 'number' || typeof b === 'number') {
    const [x, y] = [toNumber(a), toNumber(b)];
    return x === null || y === null ? null : x - y;
  }
  const [x, y] = [momentOf(a, zone), momentOf(b, zone)];
  if (x !== null && y !== null) return x - y;
  return a < b ? -1 : a > b ? 1 : 0;
}

function momentOf(value: Plain, zone: string): number | null {
  if (typeof value === 'object') return value.moment;
  return typeof value === 'string' ? readInstant(value, zone) : null;
}

function toNumber(value: string | number): number | null {
  if (typeof value === 'number') return value;
  return /^-?\d+(?:\.\d+)?$/.test(value) ? Number(value) : null;
}

/** What a value stands for: nothing, one thing or several. */
function valuesOf(value: Value, situation: Situation, zone: string): readonly Plain[] {
  switch (value.is) {
    case 'string':
    case 'number':
      return [value.value];
    case 'date': {
      const moment = readInstant(value.text, zone);
      return moment === null ? NONE : [{ moment }];
    }
    case 'list':
      return value.of.flatMap((item) => valuesOf(item, situation, zone));
    case 'path':
      return present(situation.path[value.name]);
    case 'query':
      return present(new URLSearchParams(situation.query).get(value.name));
    case 'language':
      return present(situation.visitor.language);
    case 'visitor':
      return attributeOf(situation.visitor, value.name);
  }
}

const present = (value: string | null | undefined): readonly Plain[] =>
  value === null || value === undefined ? NONE : [value];

function attributeOf({ guest, id, attributes }: Visitor, name: string): readonly Plain[] {
  if (name === 'id') return present(id);
  const value = !guest && Object.hasOwn(attributes, name) ? attributes[name] : undefined;
  if (value === undefined) return NONE;
  return isList(value) ? value : [value];
}

const isList = (value: Attribute): value is readonly (string | number)[] => Array.isArray(value);
