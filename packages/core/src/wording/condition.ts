import type { Condition } from '../model/condition.ts';
import type { ReadableCondition } from '../model/clause.ts';
import { printCondition } from '../condition/print.ts';
import { inWords } from '../text/list.ts';
import type { Clause, Literal } from '../model/clause.ts';

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
  { condition, clauses }: ReadableCondition,
  titles: Titles,
): string =>
  clauses === null
    ? `anyone for whom ${printCondition(condition)}`
    : clausesInWords(clauses, titles);

/**
 * Says in words whom some alternatives fit: “anyone with the role ringer or warden; and buyers of
 * Hide permit while it is in force”. The words are exact: they can be read back into the condition.
 */
function clausesInWords(clauses: readonly Clause[], titles: Titles): string {
  if (clauses.length === 0) return 'nobody';
  if (clauses.some(({ size }) => size === 0)) return 'everyone';
  const single = new Map<string, string[]>();
  const others: string[] = [];
  for (const clause of clauses) {
    const [only] = clause.values();
    const kind = only && clause.size === 1 && only.holds ? kindOf(only.atom) : null;
    if (kind === null) others.push(clauseInWords(clause, titles));
    else single.set(kind, [...(single.get(kind) ?? []), nameOf(only!.atom, titles)]);
  }
  const grouped = [...single].map(([kind, names]) => phrase(kind, names));
  const all = [...grouped, ...others];
  return all.length === 1 ? all[0]! : `${all.slice(0, -1).join('; ')}; and ${all.at(-1)}`;
}

/** Kinds whose names can be told together: “with the role a, b or c”. */
function kindOf(atom: Condition): string | null {
  if (atom.is === 'bought') return atom.ever ? 'ever bought' : 'bought';
  return atom.is === 'role' || atom.is === 'group' || atom.is === 'person' ? atom.is : null;
}

function nameOf(atom: Condition, titles: Titles): string {
  if (atom.is === 'bought') return titles.product(atom.product);
  return 'name' in atom ? atom.name : '';
}

function phrase(kind: string, names: readonly string[]): string {
  const list = inWords(names, 'or');
  switch (kind) {
    case 'role':
      return `anyone with the role ${list}`;
    case 'group':
      return `anyone in the group ${list}`;
    case 'person':
      return `the person ${list}`;
    case 'bought':
      return `buyers of ${list} while it is in force`;
    default:
      return `anyone who ever bought ${list}`;
  }
}

function clauseInWords(clause: Clause, titles: Titles): string {
  const literals = [...clause.values()];
  const isGuest = literals.find(({ atom, holds }) => atom.is === 'signed-in' && !holds);
  const positive = literals.filter(({ holds }) => holds).map((one) => atomInWords(one, titles));
  const negative = literals
    .filter((one) => !one.holds && one !== isGuest)
    .map((one) => atomInWords(one, titles));
  const [first, ...others] = [...(isGuest ? ['guests'] : []), ...positive];
  const head = [first ?? 'everyone', ...others].join(' who are also ');
  return [head, ...negative].join(', except ');
}

function atomInWords({ atom }: Literal, titles: Titles): string {
  const kind = kindOf(atom);
  if (kind !== null) return phrase(kind, [nameOf(atom, titles)]);
  if (atom.is === 'signed-in') return 'anyone signed in';
  return `anyone for whom ${printCondition(atom)}`;
}
