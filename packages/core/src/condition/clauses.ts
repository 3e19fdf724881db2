import type { Condition, Value } from '../model/condition.ts';
import type { Names } from './evaluate.ts';
import { printCondition } from './print.ts';
import type { Clause } from '../model/clause.ts';

/** More alternatives than anyone would read; a condition that has them is left as it is. */
const MAX_CLAUSES = 200;
const SIGNED_IN: Condition = { is: 'signed-in' };
const SIGNED_IN_KEY = 'signed-in';

/**
 * Takes a condition apart into alternatives (disjunctive normal form), audiences opened, with what
 * contradicts itself or goes without saying left out: someone with a role is signed in, and so on.
 *
 * @returns alternatives, any of which suffices: none means nobody, an empty one means anyone; null when
 *   there would be too many
 */
export function clausesOf(condition: Condition, names: Pick<Names, 'audiences'>): Clause[] | null {
  const clauses = expand(condition, true, { ...names, expanded: new Map() });
  return clauses && simplified(clauses);
}

/** The audiences, and what each was expanded to, held or not: one may stand in another many times over. */
interface Expanding extends Pick<Names, 'audiences'> {
  readonly expanded: Map<string, Clause[] | null>;
}

function expand(condition: Condition, holds: boolean, names: Expanding): Clause[] | null {
  switch (condition.is) {
    case 'anyone':
    case 'nobody':
      return (condition.is === 'anyone') === holds ? [new Map()] : [];
    case 'guest':
      return [clauseOf(SIGNED_IN, !holds)];
    case 'audience': {
      const opened = names.audiences.get(condition.name);
      if (!opened) return holds ? [] : [new Map()];
      const key = `${holds} ${condition.name}`;
      let expanded = names.expanded.get(key);
      if (expanded === undefined)
        names.expanded.set(key, (expanded = expand(opened, holds, names)));
      return expanded;
    }
    case 'not':
      return expand(condition.of, !holds, names);
    case 'and':
    case 'or': {
      const isProduct = (condition.is === 'and') === holds;
      let all: Clause[] = isProduct ? [new Map()] : [];
      for (const inner of condition.of) {
        const parts = expand(inner, holds, names);
        if (parts === null) return null;
        all = isProduct ? product(all, parts) : [...all, ...parts];
        all = simplified(all);
        if (all.length > MAX_CLAUSES) return null;
      }
      return all;
    }
    default:
      return [clauseOf(condition, holds)];
  }
}

const clauseOf = (atom: Condition, holds: boolean): Clause =>
  new Map([[printCondition(atom), { atom, holds }]]);

function product(left: readonly Clause[], right: readonly Clause[]): Clause[] {
  return left.flatMap((a) =>
    right.flatMap((b) => {
      const both = new Map(a);
      for (const [key, literal] of b) {
        if (both.has(key) && both.get(key)!.holds !== literal.holds) return [];
        both.set(key, literal);
      }
      return [both];
    }),
  );
}

/** Whether an atom can be true only of someone who is signed in. */
function impliesSignedIn({ is, ...rest }: Condition): boolean {
  if (is === 'compare') {
    const { left, right } = rest as { left: Value; right: Value };
    return left.is === 'visitor' || right.is === 'visitor';
  }
  return ['role', 'group', 'person', 'bought'].includes(is);
}

function simplified(clauses: readonly Clause[]): Clause[] {
  let current = clauses.flatMap((clause) => trimmed(clause) ?? []);
  for (;;) {
    current = withoutCovered(current);
    const merged = mergeOnce(current);
    if (merged === null) return current;
    current = merged;
  }
}

/** Leaves out what goes without saying; null where a clause contradicts itself. */
function trimmed(clause: Clause): Clause | null {
  const signedIn = clause.get(SIGNED_IN_KEY);
  const literals = [...clause];
  const needsSignIn = literals.some(([, { atom, holds }]) => holds && impliesSignedIn(atom));
  if (signedIn?.holds === false && needsSignIn) return null;
  return new Map(
    literals.filter(([key, { atom, holds }]) => {
      if (key === SIGNED_IN_KEY) return !(holds && needsSignIn);
      return !(signedIn?.holds === false && !holds && impliesSignedIn(atom));
    }),
  );
}

function withoutCovered(clauses: readonly Clause[]): Clause[] {
  return clauses.filter(
    (clause, i) =>
      !clauses.some(
        (other, j) => i !== j && covers(other, clause) && (other.size < clause.size || j < i),
      ),
  );
}

/** Whether everyone whom `narrow` fits is among those whom `wide` fits. */
function covers(wide: Clause, narrow: Clause): boolean {
  for (const [key, { holds }] of wide) {
    const same = narrow.get(key);
    const isImplied =
      key === SIGNED_IN_KEY &&
      holds &&
      [...narrow.values()].some((one) => one.holds && impliesSignedIn(one.atom));
    if (!isImplied && same?.holds !== holds) return false;
  }
  return true;
}

/** “A and B, or A and not B” is A; null when there is no such pair. */
function mergeOnce(clauses: readonly Clause[]): Clause[] | null {
  for (const [i, a] of clauses.entries()) {
    for (const b of clauses.slice(i + 1)) {
      const differing = [...a].filter(([key, { holds }]) => b.get(key)?.holds === !holds);
      if (a.size !== b.size || differing.length !== 1) continue;
      const [key] = differing[0]!;
      if (![...a.keys()].every((one) => b.has(one))) continue;
      const merged = new Map(a);
      merged.delete(key);
      return [...clauses.filter((one) => one !== a && one !== b), merged];
    }
  }
  return null;
}
