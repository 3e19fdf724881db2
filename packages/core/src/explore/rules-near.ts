import type { PreparedSite } from '../decision/prepared-site.ts';
import { walk, type Condition, type Value } from '../model/condition.ts';
import { literalOf, type Group, type Part, type Pattern } from '../model/pattern.ts';
import type { Scope } from '../model/site.ts';
import { encodePathText } from '../address/canonical-path.ts';
import { groupsIn } from '../pattern/matched-groups.ts';
import { NUMBERS, numbersFrom } from '../pattern/number-source.ts';
import { literalPattern } from '../pattern/parse.ts';
import { regexpOf } from '../pattern/regexp.ts';
import { shapesOf } from '../pattern/shape.ts';

export type RuleKind = 'gates' | 'redirects' | 'rewrites' | 'pages';

/** Where a rule stands, and what it asks about. */
export interface PlacedRule {
  /** The plain text with which all of its addresses begin. */
  readonly start: string;
  readonly scope: Scope;
  readonly conditions: readonly Condition[];
}

type PlacedRules = Readonly<Record<RuleKind, readonly PlacedRule[]>>;
/** By the first step of their addresses; null for rules that do not have the same one everywhere. */
type RulesBySection = Readonly<Record<RuleKind, ReadonlyMap<string | null, readonly PlacedRule[]>>>;

const ALL_KINDS: readonly RuleKind[] = ['gates', 'redirects', 'rewrites', 'pages'];
const known = new WeakMap<PreparedSite, RulesBySection>();

/**
 * The rules that can be for an address of a pattern, or for one with a beginning: what both begin with tells.
 */
export function rulesNear(
  prepared: PreparedSite,
  near: Pattern | string,
  kinds: readonly RuleKind[] = ALL_KINDS,
): PlacedRule[] {
  let all = known.get(prepared);
  if (!all) known.set(prepared, (all = bySection(placedRules(prepared))));
  const start = typeof near === 'string' ? near : startOf(near);
  const section = sectionOf(start);
  return kinds.flatMap((kind) => {
    const rules = all[kind];
    const some = section === null ? rules.values() : [rules.get(section), rules.get(null)];
    return [...some].flatMap((those) =>
      (those ?? []).filter(
        (rule) =>
          rule.scope.pattern !== near &&
          (start.startsWith(rule.start) || rule.start.startsWith(start)),
      ),
    );
  });
}

/** All rules that can be for a request without a query to the site's own host. */
function placedRules({ site }: PreparedSite): PlacedRules {
  const at = (pattern: Pattern, conditions: readonly (Condition | null)[] = []): PlacedRule => ({
    start: startOf(pattern),
    scope: { pattern, under: false },
    conditions: conditions.filter((one) => one !== null),
  });
  return {
    gates: site.gates.flatMap(({ scopes, admit, otherwise }) =>
      scopes.map((scope) => ({
        start: startOf(scope.pattern),
        scope,
        conditions: [admit, ...otherwise.map(({ who }) => who)],
      })),
    ),
    redirects: [
      ...site.redirects
        .filter(
          ({ host, queryConstraints }) =>
            (host === null || host === site.host) && queryConstraints.length === 0,
        )
        .map(({ pattern, when }) => at(pattern, [when])),
      ...site.rewrites.flatMap(({ canonical, when }) =>
        canonical === null ? [] : [at(canonical.pattern, [when])],
      ),
    ],
    rewrites: site.rewrites.map(({ pattern, when }) => at(pattern, [when])),
    pages: site.pages.flatMap(({ pattern, aliases, missingUnless }) => [
      at(pattern, [missingUnless]),
      ...aliases.map((alias) => at(literalPattern(alias))),
    ]),
  };
}

function bySection(rules: PlacedRules): RulesBySection {
  const arrange = (kind: RuleKind): ReadonlyMap<string | null, readonly PlacedRule[]> => {
    const found = new Map<string | null, PlacedRule[]>();
    for (const rule of rules[kind]) {
      const section = sectionOfRule(rule);
      const same = found.get(section);
      if (same) same.push(rule);
      else found.set(section, [rule]);
    }
    return found;
  };
  return {
    gates: arrange('gates'),
    redirects: arrange('redirects'),
    rewrites: arrange('rewrites'),
    pages: arrange('pages'),
  };
}

/** A single address is in the section of its first step; what is beneath it is no matter of its rule. */
const sectionOfRule = ({ start, scope }: PlacedRule): string | null =>
  !scope.under && literalOf(scope.pattern) !== null
    ? (/^\/[^/]+/.exec(start)?.[0] ?? null)
    : sectionOf(start);

/** The first step of an address, where what follows it is known to begin another. */
const sectionOf = (start: string): string | null => /^\/[^/]+(?=\/)/.exec(start)?.[0] ?? null;

/** The plain text with which all addresses of a pattern begin. */
export function startOf({ parts }: Pattern): string {
  let start = '';
  for (const part of parts) {
    if (part.modifier !== '') break;
    if (part.is !== 'text') return start + part.prefix;
    start += part.value;
  }
  return start;
}

/**
 * What the conditions of a rule at a path tell apart. Where they are about a value that is only a part of a piece:
 * the rule's addresses with that value put in, or with the numbers on either side of it. Where it is the whole of a
 * piece: the section itself, for beneath it the value is a part.
 *
 * @param isPiece whether a value is the whole of a piece
 */
export function dividedBy(
  { scope, conditions }: PlacedRule,
  path: string,
  isPiece: (value: string) => boolean,
): Scope[] {
  const { pattern, under } = scope;
  if (pattern.names.length === 0 || conditions.length === 0) return [];
  const names = conditions.flatMap(piecesRead);
  if (names.length === 0 || !matches(scope, path)) return [];
  const groups = groupsIn(
    { pattern, under, slots: null, shape: shapesOf(pattern.parts)[0]! },
    path,
  );
  const isWhole = (name: string): boolean => isPiece(groups[name]!);
  const taken = names.filter((name) => groups[name] !== undefined);
  const parts = taken.filter((name) => !isWhole(name));
  return [
    ...conditions
      .flatMap(comparedPieces)
      .filter(({ name }) => parts.includes(name))
      .flatMap(({ name, value }) => dividedAt(pattern, name, value))
      // A repeated piece also matches the steps under it, with a longer value.
      .flatMap((divided) => [
        { pattern: divided, under },
        ...(under ? [{ pattern: divided, under: false }] : []),
      ]),
    ...(under && taken.some(isWhole) ? [{ pattern, under: false }] : []),
  ];
}

const matches = ({ pattern, under }: Scope, path: string): boolean =>
  under || regexpOf(pattern).matches(path);

function piecesRead(condition: Condition): string[] {
  const found: string[] = [];
  const add = (value: Value): void => {
    if (value.is === 'path') found.push(value.name);
    if (value.is === 'list') value.of.forEach(add);
  };
  walk(condition, (inner) => {
    if (inner.is !== 'compare') return;
    add(inner.left);
    add(inner.right);
  });
  return found;
}

interface Compared {
  readonly name: string;
  readonly value: string | number;
}

function comparedPieces(condition: Condition): Compared[] {
  const found: Compared[] = [];
  const add = (one: Value, other: Value): void => {
    if (one.is !== 'path') return;
    for (const constant of other.is === 'list' ? other.of : [other])
      if (constant.is === 'string' || constant.is === 'number')
        found.push({ name: one.name, value: constant.value });
  };
  walk(condition, (inner) => {
    if (inner.is !== 'compare') return;
    add(inner.left, inner.right);
    add(inner.right, inner.left);
  });
  return found;
}

/** A pattern with one of its pieces as comparisons with a constant tell its values apart. */
function dividedAt(pattern: Pattern, name: string, value: string | number): Pattern[] {
  if (typeof value === 'string' || !Number.isInteger(value) || value < 0)
    return [
      withPiece(pattern, name, String(value), (part) => ({
        is: 'text',
        value: part.prefix + encodePathText(String(value)) + part.suffix,
        modifier: '',
      })),
    ];
  const sources = [
    [`(a number)`, NUMBERS],
    [`(${value} or more)`, numbersFrom(value, false)],
    [`(more than ${value})`, numbersFrom(value, true)],
  ] as const;
  return sources.map(([words, source]) =>
    withPiece(pattern, name, `:${name} ${words}`, (part) => ({ ...part, is: 'regexp', source })),
  );
}

/** A pattern with another part in place of a piece. */
const withPiece = (
  pattern: Pattern,
  name: string,
  text: string,
  replace: (part: Group) => Part,
): Pattern => ({
  ...pattern,
  parts: pattern.parts.map((part) =>
    part.is === 'text' || part.name !== name ? part : replace(part),
  ),
  text: pattern.text.replace(`:${name}`, text),
});
