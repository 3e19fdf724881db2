import { readAddress } from '../address/address.ts';
import { decodePathText, encodePathText } from '../address/canonical-path.ts';
import { normalizePath } from '../address/tidy.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { literalOf, type Part as PatternPart, type Pattern } from '../model/pattern.ts';
import type { Redirect, Scope, Site } from '../model/site.ts';
import { fillPattern } from '../pattern/fill.ts';
import type { Target } from '../model/target.ts';
import { PathLanguage } from '../pattern/language.ts';
import { regexpOf } from '../pattern/regexp.ts';
import { fillTarget } from '../pattern/target.ts';
import { lookUp, type PatternIndex } from '../pattern/pattern-index.ts';
import type { AddressSet } from './address-set.ts';
import type { Piece } from './attribute-values.ts';
import type { Part } from './part.ts';
import { leadsToSamePath } from '../visit/visit.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import { dividedBy, rulesNear, startOf } from './rules-near.ts';

/** Some addresses of a page, which all rules treat alike. */
export interface Family {
  /** The rules that cut them out, by what these are for; none for a page that is not cut, and for the rest of one. */
  readonly within: readonly Scope[];
  /** One of them. */
  readonly example: string;
  /** Whether a path, in the form in which rules are matched, is one of them. */
  has(path: string): boolean;
  /** The pieces that differ from one to the next, by what stands for them in the example. */
  readonly pieces: ReadonlyMap<string, Piece>;
}

/** What happens at the example of a family in one state of a site. */
export interface Explored {
  readonly prepared: PreparedSite;
  readonly parts: readonly Part[];
}

/** A family that may still be cut. */
interface Block {
  readonly within: readonly Scope[];
  readonly paths: PathLanguage;
}

/** Each costs some thousandths of a second; single addresses cost less. */
const MOST_FAMILIES = 200;
const MOST_SINGLE = 2_000;
const MOST_EXAMPLES = 300;
const MOST_SAMPLES = 20;
/** What stands for pieces, so that no rule names it. */
const TOKENS = [
  ['kx3', 'wj9', 'vf2', 'qy5', 'hb8'],
  ['73519', '84626', '90843', '61297', '58031'],
  ['7351', '8462', '9084', '6129', '5803'],
];
const NO_PIECES: ReadonlyMap<string, Piece> = new Map();

/** A single address. */
export const familyOf = (path: string, within: readonly Scope[] = []): Family => ({
  within,
  example: path,
  has: (other) => other === path,
  pieces: NO_PIECES,
});

/**
 * Divides addresses into families: as finely as the rules do that can stand at some of them, or where
 * they are redirected to or served from, and no finer. A page with one address is one family.
 *
 * @param states of the site, the rules of all of which cut them
 * @param others rules besides, which cut them too
 * @param explore what happens at the example of a family
 * @returns families that do not overlap; the addresses that no other rule cuts out are the first
 * @throws TooManyCases where other patterns cut out more than could be told apart
 */
export function familiesOf(
  states: readonly PreparedSite[],
  addresses: AddressSet,
  explore: (family: Family) => readonly Explored[],
  others: readonly Scope[] = [],
): Family[] {
  const { pattern } = addresses;
  if (literalOf(pattern) !== null) return [familyOf(addresses.example)];
  const whole = PathLanguage.of({ pattern, under: false });
  const { single, cuts, elsewhere } = cutsOf(states, addresses, whole, others);
  let blocks: Block[] = [{ within: [], paths: whole }];
  for (const [scope, paths] of cuts) blocks = cut(blocks, scope, paths);
  const families: Family[] = [];
  for (let block = blocks.shift(); block !== undefined; block = blocks.shift()) {
    const family = familyIn(states[0]!, addresses, block, { single, elsewhere });
    if (family === null) continue;
    const finer = explore(family).reduce<Block[]>(
      (all, { prepared, parts }) => all.flatMap((one) => refined(prepared, one, family, parts)),
      [block],
    );
    if (families.length + blocks.length > MOST_FAMILIES) throw new TooManyCases();
    if (finer.length > 1) blocks.unshift(...finer);
    else families.push(family);
  }
  const singles = [...single].filter(([path]) => addresses.owns(path));
  if (singles.length > MOST_SINGLE) throw new TooManyCases();
  return [...families, ...singles.map(([path, within]) => familyOf(path, within))];
}

/** What is taken out of a page. */
interface TakenOut {
  /** Single paths, with the rules that they are of. */
  readonly single: ReadonlyMap<string, readonly Scope[]>;
  /** The paths of rules that are none of the page's. */
  readonly elsewhere: readonly Scope[];
}

/** What the rules near a page cut out of it: single paths, and sets of many. */
function cutsOf(
  states: readonly PreparedSite[],
  { pattern, elsewhere }: AddressSet,
  whole: PathLanguage,
  others: readonly Scope[],
): TakenOut & { readonly cuts: readonly [Scope, PathLanguage][] } {
  const single = new Map<string, Scope[]>();
  const cuts: [Scope, PathLanguage][] = [];
  const away: Scope[] = [];
  const near = states.flatMap((one) => rulesNear(one, pattern).map(({ scope }) => scope));
  const seen = new Set<string>();
  for (const scope of [...near, ...others]) {
    // Two states of a site have most rules in common.
    const key = `${scope.under} ${scope.pattern.text}`;
    if (states.length > 1 && seen.has(key)) continue;
    seen.add(key);
    if (cuts.length > MOST_FAMILIES) throw new TooManyCases();
    if (holdsAll(scope, pattern)) continue;
    if (elsewhere?.has(scope)) {
      away.push(scope);
      continue;
    }
    const literal = scope.under ? null : literalOf(scope.pattern);
    if (literal === null) {
      cuts.push([scope, PathLanguage.of(scope)]);
      continue;
    }
    const path = normalizePath(literal, states[0]!.site.tidy);
    if (whole.has(path)) single.set(path, [...(single.get(path) ?? []), scope]);
  }
  return { single, cuts, elsewhere: away };
}

/** Whether a section plainly holds all addresses of a pattern, so that it cuts nothing out of it. */
function holdsAll({ pattern: section, under }: Scope, pattern: Pattern): boolean {
  const literal = under ? literalOf(section) : null;
  return literal !== null && (literal === '/' || startOf(pattern).startsWith(`${literal}/`));
}

/** Cuts blocks in two where a set of paths is a part of them. */
function cut(blocks: readonly Block[], scope: Scope, paths: PathLanguage): Block[] {
  if (blocks.length > MOST_FAMILIES) throw new TooManyCases();
  return blocks.flatMap((block): Block[] => {
    if (!block.paths.meets(paths)) return [block];
    const outside = block.paths.without(paths);
    if (outside.isEmpty) return [block];
    return [
      { within: block.within, paths: outside },
      { within: [scope, ...block.within], paths: block.paths.and(paths) },
    ];
  });
}

/**
 * A block as a family; null where it has no addresses, or all of them are others'.
 *
 * @throws TooManyCases where that cannot be told
 */
function familyIn(
  { site }: PreparedSite,
  addresses: AddressSet,
  { within, paths }: Block,
  taken: TakenOut,
): Family | null {
  const has = (path: string): boolean =>
    !taken.single.has(path) && addresses.owns(path) && paths.has(path);
  const example =
    exampleIn(site, addresses, paths, has) ?? exampleOfRest(site, addresses, paths, taken);
  if (example === null) return null;
  return { within, example, has, pieces: piecesOf(site, addresses, paths, example, has, taken) };
}

/** The paths of a block that nothing is known to take out; they are the page's, all of them or none. */
function restOf(site: Site, paths: PathLanguage, { single, elsewhere }: TakenOut): PathLanguage {
  const inside = [...single.keys()].filter((path) => paths.has(path));
  const taken = [
    ...(inside.length > 0 ? [PathLanguage.only(inside)] : []),
    ...elsewhere.map((scope) => PathLanguage.of(scope)),
  ];
  return taken.reduce(
    (left, one) => (left.isEmpty ? left : left.without(one)),
    paths.and(PathLanguage.tidy(site.tidy)),
  );
}

/** The address of a block that was not found among its first ones; null where it has none. */
function exampleOfRest(
  site: Site,
  { owns }: AddressSet,
  paths: PathLanguage,
  taken: TakenOut,
): string | null {
  const rest = restOf(site, paths, taken);
  if (rest.isEmpty) return null;
  for (const path of first(MOST_EXAMPLES, rest.examples(site.tidy)))
    if (isTidy(path, site)) return owns(path) ? path : null;
  throw new TooManyCases();
}

/**
 * Cuts a block by what depends on its pieces further on: the rules where it is redirected to or served from, and
 * conditions about a part of a piece.
 */
function refined(
  prepared: PreparedSite,
  block: Block,
  { pieces }: Family,
  parts: readonly Part[],
): Block[] {
  let blocks: Block[] = [block];
  const isPiece = (value: string): boolean => pieces.has(decodePathText(value));
  for (const { path, steps } of stationsOf(prepared, parts)) {
    const rules = rulesNear(prepared, steps.at(-1)?.target ?? path);
    const cuts: (readonly [Scope, PathLanguage])[] = rules.flatMap((rule) => [
      ...(steps.length === 0 ? [] : [[rule.scope, PathLanguage.of(rule.scope)] as const]),
      ...dividedBy(rule, path, isPiece).map(
        (scope) => [scope, PathLanguage.of(scope).and(PathLanguage.of(rule.scope))] as const,
      ),
    ]);
    for (const [scope, there] of cuts) {
      const paths = steps.reduceRight<PathLanguage | null>(
        (further, { pattern, target }) => further?.madeFrom(pattern, target) ?? null,
        there,
      );
      if (paths) blocks = cut(blocks, scope, paths);
    }
  }
  return blocks;
}

/** A rule that makes one path of another. */
interface Step {
  readonly pattern: Pattern;
  readonly target: Pattern;
}

/** A path at which rules are asked, and how it was made of the one that was asked for. */
interface Station {
  readonly path: string;
  readonly steps: readonly Step[];
}

/** The paths at which rules are asked on the way, as far as they differ from one address of a family to the next. */
function stationsOf(prepared: PreparedSite, parts: readonly Part[]): Station[] {
  const { site } = prepared;
  const rewrites = new Map(site.rewrites.map((rewrite) => [rewrite.place, rewrite]));
  const found = new Map<string, Station>();
  const add = (
    address: string,
    steps: readonly Step[],
  ): { path: string; redirects: PatternIndex<Redirect> | undefined } | null => {
    const read = readAddress(address, site, site.tidy);
    if (!read.ok || !prepared.hosts.has(read.address.host)) return null;
    const { path, host } = read.address;
    found.set(JSON.stringify([path, steps.map(({ target }) => target.text)]), { path, steps });
    const isHome = host === site.host;
    return { path, redirects: isHome ? prepared.redirects : prepared.redirectsByHost.get(host) };
  };
  for (const { end } of parts) {
    let steps: readonly Step[] = [];
    for (const { address, decision } of end.hops) {
      const station = add(address, steps);
      if (station === null) break;
      const { path, redirects } = station;
      // Whether a rewrite shows at another address what is asked for here depends on what is there.
      for (const { canonical } of site.rewrites)
        if (canonical && regexpOf(canonical.pattern).matches(path)) {
          const { groups } = lookUp(prepared.redirects, path).find(
            ({ rule }) => rule.pattern === canonical.pattern,
          ) ?? { groups: {} };
          add(fillTarget(canonical.to, groups, ''), [
            ...steps,
            stepOf(canonical.pattern, canonical.to),
          ]);
        }
      const { reasons } = decision;
      for (const reason of reasons) {
        const rewrite = reason.place ? rewrites.get(reason.place) : undefined;
        if (reason.code === 'rewritten' && rewrite)
          add(reason.values.location, [...steps, stepOf(rewrite.pattern, rewrite.serve)]);
      }
      if (decision.location === null) break;
      const last = reasons.findLast(({ verdict }) => verdict === 'redirected');
      const match =
        last?.stage === 'redirect' && redirects
          ? lookUp(redirects, path).find(({ rule }) => rule.place === last.place)
          : undefined;
      if (match) steps = [...steps, stepOf(match.rule.pattern, match.rule.to)];
      // Another spelling of the same path is no step, nor the same path at another host. What else there is
      // is the same for all addresses.
      else if (!last || !leadsToSamePath(last)) break;
    }
  }
  return [...found.values()];
}

const stepOf = (pattern: Pattern, { path }: Target): Step => ({ pattern, target: path });

/** An address of a family with pieces that no rule names, where there is one. */
function exampleIn(
  site: Site,
  { pattern, example }: AddressSet,
  paths: PathLanguage,
  has: (path: string) => boolean,
): string | null {
  const filled = TOKENS.map((tokens) =>
    fillPattern(
      pattern,
      Object.fromEntries(pattern.names.map((name, i) => [name, tokens[i % tokens.length]!])),
    ),
  );
  const own = filled.find((path) => has(path) && isTidy(path, site));
  if (own !== undefined) return own;
  for (const path of first(MOST_EXAMPLES, paths.examples(site.tidy)))
    if (has(path) && isTidy(path, site)) return path;
  return has(example) ? example : null;
}

/** Whether a path is written as the site has it: another spelling redirects to the usual one. */
function isTidy(path: string, site: Site): boolean {
  const read = readAddress(path, site, site.tidy);
  return read.ok && read.address.path === path;
}

function piecesOf(
  site: Site,
  { pattern, groupsOf }: AddressSet,
  paths: PathLanguage,
  example: string,
  owns: (path: string) => boolean,
  taken: TakenOut,
): ReadonlyMap<string, Piece> {
  const has = (path: string): boolean => owns(path) && isTidy(path, site);
  const groups = groupsOf(example);
  const isKnown = (name: string): boolean => {
    const fixed = withTexts(pattern, { ...groups, [name]: null });
    const values = paths.and(PathLanguage.of({ pattern: fixed, under: false }));
    return restOf(site, values.without(PathLanguage.only([example])), taken).isEmpty;
  };
  const others: ReturnType<typeof groupsOf>[] = [];
  for (const path of first(MOST_EXAMPLES, paths.examples(site.tidy))) {
    if (has(path)) others.push(groupsOf(path));
    if (others.length === MOST_SAMPLES) break;
  }
  return new Map(
    Object.entries(groups).flatMap(([name, value]): [string, Piece][] => {
      const values = [value, ...others.map((other) => other[name] ?? value)].map(decodePathText);
      const samples = [...new Set(values)];
      // A piece that can only be one thing is known.
      if (samples.length === 1 && isKnown(name)) return [];
      const fits = (other: string): boolean =>
        has(fillPattern(pattern, { ...groups, [name]: encodePathText(other) }));
      return [[samples[0]!, { name, fits, samples: samples.filter(fits) }]];
    }),
  );
}

/** A pattern with texts in place of its pieces, except where none is given. */
function withTexts(pattern: Pattern, texts: Readonly<Record<string, string | null>>): Pattern {
  const parts = pattern.parts.flatMap((part): PatternPart[] => {
    const value = part.is === 'text' ? null : texts[part.name];
    if (part.is === 'text' || value === null) return [part];
    // An optional piece may be absent.
    return value === undefined
      ? []
      : [{ is: 'text', value: part.prefix + value + part.suffix, modifier: '' }];
  });
  return { ...pattern, parts, text: JSON.stringify(parts) };
}

function* first<T>(most: number, items: Iterable<T>): Generator<T> {
  let count = 0;
  for (const item of items) {
    yield item;
    if (++count === most) return;
  }
}
