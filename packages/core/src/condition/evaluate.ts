import type { Condition, Operator, Value } from './condition.ts';
import type { Attribute, Purchase, Visitor } from '../site/visitor.ts';
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
      return !visitor.guest && hasBought(visitor, condition.product, condition.ever, situation.at);
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

function hasBought(visitor: Visitor, product: string, ever: boolean, at: number): boolean {
  for (const purchase of visitor.bought) {
    if (purchase.product === product && (ever || isInForce(purchase, at))) return true;
  }
  return false;
}

/** Whether a purchase is in force: begun, not run out, not refunded, not paused. */
function isInForce(purchase: Purchase, at: number): boolean {
  if (purchase.refunded || purchase.paused) return false;
  if (purchase.from !== null && at < purchase.from) return false;
  return purchase.until === null || at < purchase.until;
}

type Plain = Attribute | undefined;

const isList = (value: Attribute): value is readonly (string | number)[] => Array.isArray(value);

function compare(
  left: Value,
  operator: Operator,
  right: Value,
  situation: Situation,
  zone: string,
): boolean {
  const a = valueOf(left, situation);
  const b = valueOf(right, situation);
  if (a === undefined || b === undefined) return false;
  if (operator === 'in') return isList(b) && b.some((item) => order(a, item, zone) === 0);
  // A visitor's attribute may hold several values; it compares as true when one of them does.
  if (isList(a)) return a.some((item) => holds(operator, order(item, b, zone)));
  return holds(operator, order(a, b, zone));
}

function holds(operator: Operator, sign: number | null): boolean {
  switch (operator) {
    case '=':
      return sign === 0;
    case '!=':
      return sign !== 0;
    case '<':
      return sign !== null && sign < 0;
    case '<=':
      return sign !== null && sign <= 0;
    case '>':
      return sign !== null && sign > 0;
    default:
      return sign !== null && sign >= 0;
  }
}

/** Orders two values, as numbers or instants when both can be read so; null when they have no order. */
function order(a: Attribute, b: Attribute, zone: string): number | null {
  if (isList(a) || isList(b)) return null;
  if (typeof a === 'boolean' || typeof b === 'boolean') return String(a) === String(b) ? 0 : null;
  if (typeof a === 'number' || typeof b === 'number') {
    const x = toNumber(a);
    const y = toNumber(b);
    return x === null || y === null ? null : x - y;
  }
  const x = readInstant(a, zone);
  const y = readInstant(b, zone);
  if (x !== null && y !== null) return x - y;
  return a < b ? -1 : a > b ? 1 : 0;
}

function toNumber(value: string | number): number | null {
  if (typeof value === 'number') return value;
  return /^-?\d+(?:\.\d+)?$/.test(value) ? Number(value) : null;
}

function valueOf(value: Value, situation: Situation): Plain {
  switch (value.is) {
    case 'string':
    case 'number':
      return value.value;
    case 'date':
      return value.text;
    case 'list':
      return value.of.flatMap((item) => (valueOf(item, situation) as string | undefined) ?? []);
    case 'path':
      return situation.path[value.name];
    case 'query':
      return new URLSearchParams(situation.query).get(value.name) ?? undefined;
    case 'language':
      return situation.visitor.language ?? undefined;
    case 'visitor':
      return attributeOf(situation.visitor, value.name);
  }
}

function attributeOf(visitor: Visitor, name: string): Plain {
  if (name === 'id') return visitor.id ?? undefined;
  if (visitor.guest) return undefined;
  return Object.hasOwn(visitor.attributes, name) ? visitor.attributes[name] : undefined;
}
