/** A yes/no statement about a visitor and a request, as plain data. See `parse.ts` for the grammar. */
/** What a condition asks of the purchases of a product. */
export const PURCHASE_STATES = ['in-force', 'ever', 'lapsed', 'paused', 'refunded'] as const;
export type AskedPurchase = (typeof PURCHASE_STATES)[number];

export type Condition =
  | { readonly is: 'anyone' | 'nobody' | 'guest' | 'signed-in' }
  | { readonly is: 'role' | 'group' | 'person' | 'audience'; readonly name: string }
  | { readonly is: 'bought'; readonly product: string; readonly state: AskedPurchase }
  | {
      readonly is: 'compare';
      readonly left: Value;
      readonly operator: Operator;
      readonly right: Value;
    }
  | { readonly is: 'not'; readonly of: Condition }
  | { readonly is: 'and' | 'or'; readonly of: readonly Condition[] };

export type Operator = '=' | '!=' | '<' | '<=' | '>' | '>=' | 'in';

export type Value =
  | { readonly is: 'visitor' | 'path' | 'query'; readonly name: string }
  | { readonly is: 'language' }
  | { readonly is: 'string'; readonly value: string }
  | { readonly is: 'number'; readonly value: number }
  | { readonly is: 'date'; readonly text: string }
  | { readonly is: 'list'; readonly of: readonly Value[] };

/** Visits a condition and everything inside it, audiences not opened. */
export function walk(condition: Condition, see: (inner: Condition) => void): void {
  see(condition);
  if (condition.is === 'not') walk(condition.of, see);
  else if (condition.is === 'and' || condition.is === 'or') {
    for (const inner of condition.of) walk(inner, see);
  }
}

/** The values that a condition compares, lists opened. */
export function valuesIn(condition: Condition): Value[] {
  const values: Value[] = [];
  const add = (value: Value): void => {
    if (value.is === 'list') value.of.forEach(add);
    else values.push(value);
  };
  walk(condition, (inner) => {
    if (inner.is !== 'compare') return;
    add(inner.left);
    add(inner.right);
  });
  return values;
}
