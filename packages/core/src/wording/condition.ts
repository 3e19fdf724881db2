import type { AskedPurchase, Condition } from '../model/condition.ts';
import type { Clause, ReadableCondition, Term } from '../model/clause.ts';
import { printCondition } from '../condition/print.ts';
import { inWords } from '../text/list.ts';

/** What names of the site file are called in words; a name stands for itself where it has no title. */
export interface Titles {
  product(name: string): string;
}

/** The titles of products: one that stands for one product and can't be mistaken for a list; the name otherwise. */
export const productTitles = (products: Readonly<Record<string, { title: string }>>): Titles => ({
  product: (name) => {
    const title = products[name]?.title ?? name;
    const same = Object.entries(products).filter(
      ([other, product]) => product.title === title || other === title,
    );
    return same.length === 1 && /^[\p{L}\p{N} '-]+$/u.test(title) && !title.includes(' or ')
      ? title
      : name;
  },
});

/** Says in words whom a condition fits; by the condition itself where it has too many alternatives to read. */
export const describeCondition = (
  { condition, clauses, isExcept }: ReadableCondition,
  titles: Titles,
): string => {
  if (clauses === null) return `anyone for whom ${printCondition(condition)}`;
  return isExcept ? exceptionsInWords(clauses, titles) : clausesInWords(clauses, titles);
};

/**
 * Says in words whom some alternatives fit: “anyone with the role ringer or warden; and buyers of
 * Hide permit while it is in force”. The words are exact: they can be read back into the condition.
 */
function clausesInWords(clauses: readonly Clause[], titles: Titles): string {
  if (clauses.length === 0) return 'nobody';
  const all = clauses.map((clause) => clauseInWords(clause, titles));
  return all.length === 1 ? all[0]! : `${all.slice(0, -1).join('; ')}; and ${all.at(-1)}`;
}

const exceptionsInWords = (clauses: readonly Clause[], titles: Titles): string =>
  ['everyone', ...clauses.map((clause) => clauseInWords(clause, titles))].join(', except ');

/** Terms that hold, then what is excepted: “anyone who has the role a and is in the group g, except the person sam”. */
function clauseInWords(clause: Clause, titles: Titles): string {
  const those = clause.filter(({ holds }) => holds);
  const [only, ...others] = those;
  const head =
    only === undefined
      ? 'everyone'
      : others.length === 0
        ? termInWords(only, titles)[0]
        : `anyone who ${those.map((term) => termInWords(term, titles)[1]).join(' and ')}`;
  const exceptions = clause.filter(({ holds }) => !holds);
  return [head, ...exceptions.map((term) => termInWords(term, titles)[0])].join(', except ');
}

/** What a term says of someone: by itself, and as one thing of several. */
function termInWords({ anyOf }: Term, titles: Titles): readonly [alone: string, who: string] {
  const [first] = anyOf;
  const named = inWords(
    anyOf.map((one) => nameOf(one, titles)),
    'or',
  );
  switch (first?.is) {
    case 'role':
      return [`anyone with the role ${named}`, `has the role ${named}`];
    case 'group':
      return [`anyone in the group ${named}`, `is in the group ${named}`];
    case 'person':
      return [`the person ${named}`, `is ${named}`];
    case 'bought':
      return PURCHASES[first.state](named);
    case 'guest':
      return ['guests', 'is a guest'];
    case 'signed-in':
      return ['anyone signed in', 'is signed in'];
    default: {
      const text = anyOf.map(printCondition).join(' or ');
      return [`anyone for whom ${text}`, `fits ${text}`];
    }
  }
}

const PURCHASES: Readonly<
  Record<AskedPurchase, (named: string) => readonly [alone: string, who: string]>
> = {
  'in-force': (named) => [`buyers of ${named} while it is in force`, `has ${named} in force`],
  ever: (named) => [`anyone who ever bought ${named}`, `ever bought ${named}`],
  lapsed: (named) => [`anyone whose ${named} has run out`, `had ${named} until it ran out`],
  paused: (named) => [`anyone whose ${named} is paused`, `has ${named} paused`],
  refunded: (named) => [`anyone whose ${named} was refunded`, `had ${named} refunded`],
};

function nameOf(condition: Condition, titles: Titles): string {
  if (condition.is === 'bought') return titles.product(condition.product);
  return 'name' in condition ? condition.name : '';
}
