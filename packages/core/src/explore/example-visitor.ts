import { encodePathText } from '../address/canonical-path.ts';
import type { Names } from '../condition/evaluate.ts';
import { printCondition } from '../condition/print.ts';
import { countedIn, graceOf } from '../condition/product-terms.ts';
import { PURCHASE_STATES, type AskedPurchase, type Condition } from '../model/condition.ts';
import type { Attribute, Purchase, Visitor } from '../model/visitor.ts';
import { summarize } from '../wording/visitor-summary.ts';
import type { Atoms } from './atoms.ts';
import { valueMeeting } from './attribute-values.ts';
import type { Family } from './families.ts';
import { keyOf } from './open-values.ts';

/** Someone who is in a set of visitors, and the address that they ask for. */
export interface ExampleVisitor {
  readonly visitor: Visitor;
  /** The example of the family, with pieces and a query for which that is so. */
  readonly address: string;
  /** How much there is to say about them. */
  readonly cost: number;
}

const DAY = 86_400_000;

/** A guest costs nothing, being signed in a little, and everything that is true of someone besides more. */
function costOf(condition: Condition, isTrue: boolean): number {
  if (condition.is === 'guest') return isTrue ? 0 : 1;
  if (!isTrue) return 0;
  return condition.is === 'role' || condition.is === 'group' ? 2 : 3;
}

/**
 * Someone of a set, as plain as can be: with as few roles, purchases and attributes as that takes.
 *
 * @param at the moment for which they are made up, in milliseconds since 1970
 * @returns null where nobody is in it, or nobody who could be made up
 */
export function exampleVisitor(
  atoms: Atoms,
  set: number,
  family: Family,
  names: Names,
  at: number,
): ExampleVisitor | null {
  const { sets } = atoms;
  const found = sets.cheapest(sets.and(set, atoms.meaningful()), (variable, isTrue) =>
    costOf(atoms.conditionOf(variable), isTrue),
  );
  if (found === null) return null;
  const facts = found.cube.map(
    ([variable, isTrue]) => [atoms.conditionOf(variable), isTrue] as const,
  );
  const isFact = (wanted: (condition: Condition) => boolean): boolean =>
    facts.some(([condition, isTrue]) => isTrue && wanted(condition));

  const values = new Map<string, Attribute>();
  const wanted = new Map(facts.map(([condition, isTrue]) => [printCondition(condition), isTrue]));
  for (const [key, comparisons] of atoms.compared) {
    const piece = [...family.pieces.values()].find(({ name }) => key === `path.${name}`);
    const isThere =
      comparisons.some(({ text }) => wanted.get(text)) ||
      isFact(
        (one) => one.is === 'or' && one.of[0]?.is === 'compare' && keyOf(one.of[0].left) === key,
      );
    if (!isThere && !(piece && comparisons.some(({ text }) => wanted.has(text)))) continue;
    const value = valueMeeting(key, comparisons, wanted, names, piece);
    if (value === null) return null;
    values.set(key, value);
  }
  // What is compared with a piece of the address is made the same as it.
  for (const [condition, isTrue] of facts)
    if (isTrue && condition.is === 'compare' && condition.operator === '=')
      for (const [one, other] of [
        [condition.left, condition.right],
        [condition.right, condition.left],
      ] as const)
        if (one.is === 'visitor' && other.is === 'path') {
          const piece = [...family.pieces].find(([, { name }]) => name === other.name);
          if (piece) values.set(keyOf(one), values.get(keyOf(other)) ?? piece[0]);
        }
  return {
    visitor: visitorOf(facts, values, names, at),
    address: addressOf(family, values),
    cost: found.cost,
  };
}

function visitorOf(
  facts: readonly (readonly [Condition, boolean])[],
  values: ReadonlyMap<string, Attribute>,
  names: Names,
  at: number,
): Visitor {
  // Nobody is plainer than a guest, where nothing is asked.
  const isOfNothing =
    facts.every(([, isTrue]) => !isTrue) && !facts.some(([{ is }]) => is === 'guest');
  const isGuest = isOfNothing || facts.some(([{ is }, isTrue]) => is === 'guest' && isTrue);
  const those = facts.flatMap(([condition, isTrue]) => (isTrue ? [condition] : []));
  const namesOf = (kind: 'role' | 'group' | 'person'): string[] =>
    those.flatMap((one) => (one.is === kind ? [one.name] : []));
  const bought = purchasesOf(facts, names, at);
  const attributes = [...values].flatMap(([key, value]) =>
    key.startsWith('visitor.') && key !== 'visitor.id' ? [[key.slice(8), value] as const] : [],
  );
  const id = values.get('visitor.id') ?? namesOf('person')[0] ?? 'someone';
  const language = values.get('language');
  const visitor = {
    guest: isGuest,
    id: isGuest ? null : String(id),
    roles: namesOf('role'),
    groups: namesOf('group'),
    bought,
    attributes: Object.fromEntries(attributes),
    language: language === undefined ? null : String(language),
  };
  return {
    name: 'someone',
    title: 'Someone',
    ...visitor,
    summary: summarize(visitor, names.timeZone),
  };
}

/** Purchases of which is true what is to be, and not what is not; as few as that takes. */
function purchasesOf(
  facts: readonly (readonly [Condition, boolean])[],
  { products }: Names,
  at: number,
): Purchase[] {
  const asked = facts.flatMap(([condition, isTrue]) =>
    condition.is === 'bought' ? [{ ...condition, isTrue }] : [],
  );
  const counting = (product: string): readonly string[] => countedIn(product, products);
  const isTrue = (product: string, state: AskedPurchase): boolean =>
    asked.some((one) => one.product === product && one.state === state && one.isTrue);
  // What has run out would do so for all that the product counts for.
  const mayLapse = (product: string): boolean =>
    !asked.some(
      (one) =>
        one.state === 'lapsed' &&
        !one.isTrue &&
        counting(one.product).includes(product) &&
        !counting(one.product).some((each) => isTrue(each, 'in-force')),
    );
  const plain = { from: null, until: null, refunded: false, paused: false };
  const made = new Map<string, Purchase[]>();
  for (const product of new Set(asked.filter((one) => one.isTrue).map((one) => one.product))) {
    const grace = graceOf(product, products);
    const ended = { ...plain, product, until: at - DAY - grace };
    const own: Purchase[] = [
      ...(isTrue(product, 'in-force') ? [{ ...plain, product }] : []),
      ...(isTrue(product, 'lapsed') ? [ended] : []),
      ...(isTrue(product, 'paused') ? [{ ...plain, product, paused: true }] : []),
      ...(isTrue(product, 'refunded') ? [{ ...plain, product, refunded: true }] : []),
    ];
    const other = mayLapse(product) ? ended : { ...plain, product, from: at + DAY };
    made.set(product, own.length > 0 ? own : [other]);
  }
  // A bundle says the same of what is in it.
  const isSaid = (product: string): boolean =>
    counting(product).some(
      (bundle) =>
        bundle !== product &&
        PURCHASE_STATES.every((state) => !isTrue(product, state) || isTrue(bundle, state)),
    );
  return [...made].flatMap(([product, own]) => (isSaid(product) ? [] : own));
}

function addressOf(
  { example, pieces, has }: Family,
  values: ReadonlyMap<string, Attribute>,
): string {
  let path = example;
  for (const [text, { name }] of pieces) {
    const value = values.get(`path.${name}`);
    if (value === undefined) continue;
    const other = path.replace(encodePathText(text), encodePathText(String(value)));
    if (has(other)) path = other;
  }
  const query = new URLSearchParams(
    [...values].flatMap(([key, value]) =>
      key.startsWith('query.') ? [[key.slice(6), String(value)]] : [],
    ),
  ).toString();
  if (query === '') return path;
  return `${path}${path.includes('?') ? '&' : '?'}${query}`;
}
