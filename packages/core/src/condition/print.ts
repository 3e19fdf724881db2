import type { AskedPurchase, Condition, Value } from '../model/condition.ts';

/** The words before the name of a product, by what is asked of its purchases. */
const WORDS: Readonly<Record<AskedPurchase, string>> = {
  'in-force': 'bought',
  ever: 'ever bought',
  lapsed: 'lapsed',
  paused: 'paused',
  refunded: 'refunded',
};

const BINDING = { or: 0, and: 1 } as const;

/** Prints a condition so that parsing it gives the same condition, with no parenthesis too many. */
export function printCondition(condition: Condition): string {
  return print(condition, 0);
}

function print(condition: Condition, binding: number): string {
  switch (condition.is) {
    case 'or':
    case 'and': {
      const own = BINDING[condition.is];
      const text = condition.of.map((inner) => print(inner, own + 1)).join(` ${condition.is} `);
      return own < binding ? `(${text})` : text;
    }
    case 'not':
      return `not ${print(condition.of, 2)}`;
    case 'role':
    case 'group':
    case 'person':
      return `${condition.is} ${printName(condition.name)}`;
    case 'bought':
      return `${WORDS[condition.state]} ${printName(condition.product)}`;
    case 'audience':
      return condition.name;
    case 'compare':
      return `${printValue(condition.left)} ${condition.operator} ${printValue(condition.right)}`;
    default:
      return condition.is;
  }
}

/** Prints one side of a comparison. */
export function printValue(value: Value): string {
  switch (value.is) {
    case 'string':
      return quote(value.value);
    case 'number':
      return String(value.value);
    case 'date':
      return value.text;
    case 'language':
      return 'language';
    case 'list':
      return `[${value.of.map(printValue).join(', ')}]`;
    default:
      return `${value.is}.${value.name}`;
  }
}

const isPlainName = (name: string): boolean =>
  /^[\p{L}_\d][\p{L}\p{N}_-]*$/u.test(name) &&
  !['and', 'or', 'not', 'in'].includes(name) &&
  !/^\d{4}-\d{2}-\d{2}/.test(name) &&
  !/^\d+$/.test(name);

/** A name as it stands in a condition: in quotes where it must. */
export const printName = (name: string): string => (isPlainName(name) ? name : quote(name));

const quote = (text: string): string => `"${text.replace(/["\\]/g, '\\$&')}"`;
