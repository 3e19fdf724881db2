import { DFA, isDisjointWith, JS, NFA, Words } from 'refa';
import { TooManyCases } from '../model/too-many-cases.ts';
import type { Group, Part, Pattern } from '../model/pattern.ts';
import type { Scope } from '../model/site.ts';
import type { Tidy } from '../model/tidy.ts';
import { regexpSource } from './regexp.ts';
import { wordSets, wordsIn } from './words.ts';

// An automaton costs a thousand times what a look-up does, and each pattern is asked about again and again.
const exactly = new WeakMap<Pattern, PathLanguage>();
const sections = new WeakMap<Pattern, PathLanguage>();
/** The same by what they say: a site is read again with each change, and most of its patterns stay as they were. */
const bySource = new Map<string, PathLanguage>();
/** What two of them have in common is kept with them; all are dropped once there are more than these. */
const MOST_SHARED = 300;

/** @throws TooManyCases where an automaton would be too large */
function limited<T>(make: () => T): T {
  try {
    return make();
  } catch {
    throw new TooManyCases();
  }
}

/** Patterns that people write have a few hundred states at most. */
const MOST_NODES = 3_000;
/** How many nodes may still be made. */
let left = Infinity;

/**
 * Limits the work on automata.
 *
 * @param most the maximum number of nodes that are made; some 100,000 in a second
 * @throws TooManyCases where there are more
 */
export function withBudget<T>(most: number, work: () => T): T {
  const before = left;
  const own = Math.min(before, most);
  left = own;
  try {
    return work();
  } finally {
    left = before - (own - left);
  }
}

/** Counts the nodes of one automaton, and of all in a budget. */
function counting<T>(factory: { createNode(): T }): { createNode(): T } {
  let own = 0;
  return {
    createNode: () => {
      if (++own > MOST_NODES || --left < 0) throw new TooManyCases();
      return factory.createNode();
    },
  };
}
const SYNTAX = /[$()*+./?[\\\]^{|}]/g;
/** Paths whose steps are not empty and don't mean “here” or “above”. */
const pathsOf = (character: string, other: string): string =>
  `/|(?:/(?:${other}${character}*|\\.${other}${character}*|\\.\\.${character}+))+`;
const PATHS = pathsOf('[!-.0-~]', '[!-\\-0-~]');
/** What stands for itself in a canonical path, besides letters, digits and the dot. */
const LITERAL = "!$&'()*+,:=@_|~\\[\\]\\-";
/** Characters that a canonical path escapes: those of ASCII, and those of two, three and four bytes in UTF-8. */
const ESCAPES = (() => {
  const more = '%[89AB][\\dA-F]';
  return [
    '%(?:2[0235]|3[CEF]|5E|60|7[BD])',
    `%(?:C[2-9A-F]|D[\\dA-F])${more}`,
    `%E[\\dA-F]${more}${more}`,
    `%F[0-4]${more}${more}${more}`,
  ].join('|');
})();
/** Paths that are pleasant to read; of a site where case matters, too. */
const PLAIN = '(?:/[a-z0-9][a-z0-9-]*(?:\\.[a-z0-9]+)*)+';
const CASED = '(?:/[A-Za-z0-9][A-Za-z0-9_-]*(?:\\.[A-Za-z0-9]+)*)+';

/** A path made of plain text and of pieces, one after the other. */
type Mould = readonly (string | { readonly piece: string })[];

/** The parts of a pattern, with what its pieces may be. */
interface Filled {
  readonly parts: readonly Part[];
  readonly values: ReadonlyMap<string, DFA>;
}

/** More pieces that may be absent than any pattern has that people write. */
const MOST_FORMS = 32;

/** More ways of sharing a path out among pieces than any pattern that people write has. */
const MOST_WAYS = 500;

/**
 * A set of paths, as the finite automaton that reads them: patterns are regular languages, so that what two of
 * them have in common, and what one has and another does not, can be computed.
 */
export class PathLanguage {
  // The same rules cut the same pages again and again, and one redirect leads many pages on.
  private readonly made = new Map<string, PathLanguage | null>();
  private readonly inside = new WeakMap<PathLanguage, PathLanguage>();
  private readonly outside = new WeakMap<PathLanguage, PathLanguage>();

  private constructor(private readonly automaton: DFA) {}

  /**
   * The paths that a rule is for.
   *
   * @throws TooManyCases where a group of its own is no regular expression, or too large a one, for an automaton
   */
  static of(scope: Scope): PathLanguage {
    const known = scope.under ? sections : exactly;
    let paths = known.get(scope.pattern);
    if (!paths) known.set(scope.pattern, (paths = limited(() => PathLanguage.make(scope))));
    return paths;
  }

  private static make({ pattern, under }: Scope): PathLanguage {
    const source = sourceOf(pattern.parts);
    const beneath = pattern.text === '/' ? '/.*' : `(?:${source})(?:/.*)?`;
    const [whole, flags] = [under ? beneath : source, flagsOf(pattern)];
    const key = `${flags} ${whole}`;
    const known = bySource.get(key);
    if (known) return known;
    const made = new PathLanguage(common(automatonOf(whole, flags), allPaths()));
    if (bySource.size >= MOST_SHARED) bySource.clear();
    bySource.set(key, made);
    return made;
  }

  get isEmpty(): boolean {
    return this.automaton.isEmpty;
  }

  /** The paths that are in another set too. */
  and(other: PathLanguage): PathLanguage {
    let inside = this.inside.get(other);
    if (!inside) {
      inside = limited(() => new PathLanguage(common(this.automaton, other.automaton)));
      this.inside.set(other, inside);
    }
    return inside;
  }

  /** Whether any path is in another set too: a hundredth of the work of finding all of them. */
  meets(other: PathLanguage): boolean {
    return !limited(() => isDisjointWith(this.automaton, other.automaton, MOST_NODES));
  }

  /** The paths that are not in another set. */
  without(other: PathLanguage): PathLanguage {
    let rest = this.outside.get(other);
    if (!rest) {
      const outside = other.automaton.copy();
      outside.complement();
      rest = limited(() => new PathLanguage(common(this.automaton, outside)));
      this.outside.set(other, rest);
    }
    return rest;
  }

  /**
   * The paths of a pattern whose pieces, filled into a target, make a path of this set.
   *
   * @returns null where the target is the same for all of them, or there are too many ways
   */
  madeFrom(pattern: Pattern, target: Pattern): PathLanguage | null {
    const key = JSON.stringify([pattern.parts, pattern.ignoreCase, target.parts]);
    let made = this.made.get(key);
    if (made === undefined) this.made.set(key, (made = this.makeFrom(pattern, target)));
    return made;
  }

  private makeFrom(pattern: Pattern, target: Pattern): PathLanguage | null {
    const forms = formsOf(pattern.parts);
    if (target.names.length === 0 || forms.length > MOST_FORMS) return null;
    const filled: Filled[] = [];
    for (const parts of forms) {
      const ways = waysThrough(this.automaton, mouldOf(target, parts));
      if (ways === null) return null;
      filled.push(...ways.map((values) => ({ parts, values })));
    }
    return limited(() => this.fill(flagsOf(pattern), filled));
  }

  private fill(flags: string, filled: readonly Filled[]): PathLanguage {
    const { maxCharacter } = this.automaton;
    const all = NFA.empty({ maxCharacter });
    for (const { parts, values } of filled) {
      const one = NFA.emptyWord({ maxCharacter });
      for (const part of parts) {
        const value = part.is === 'text' ? undefined : values.get(part.name);
        const own = automatonOf(sourceOf([part]), flags);
        one.append(
          value === undefined || part.is === 'text' ? own : common(own, around(part, value)),
        );
      }
      all.union(one);
    }
    return new PathLanguage(common(deterministic(all), allPaths()));
  }

  has(path: string): boolean {
    return this.automaton.test(Words.fromStringToUnicode(path));
  }

  /** Just some paths. */
  static only(paths: Iterable<string>): PathLanguage {
    const { maxCharacter } = allPaths();
    const words = [...paths].map((path) => Words.fromStringToUnicode(path));
    if (words.length > MOST_NODES) throw new TooManyCases();
    return limited(() => new PathLanguage(deterministic(NFA.fromWords(words, { maxCharacter }))));
  }

  /** The paths that are written as the rules of a site are matched; some that are not may be among them. */
  static tidy({ case: letters, allow }: Pick<Tidy, 'case' | 'allow'>): PathLanguage {
    const key = [letters, ...[...allow].sort()].join();
    let paths = tidyPaths.get(key);
    if (!paths) {
      const plain = `${LITERAL}${letters === 'keep' ? 'A-Z' : ''}a-z\\d${allow.includes(';') ? ';' : ''}`;
      const source = pathsOf(`(?:[${plain}.]|${ESCAPES})`, `(?:[${plain}]|${ESCAPES})`);
      const ends = allow.includes('.') ? '.*' : '(?:/(?:[^/]*[^/.])?)+';
      paths = new PathLanguage(common(automatonOf(source), automatonOf(ends)));
      tidyPaths.set(key, paths);
    }
    return paths;
  }

  /** Some of the paths, the pleasant and the short ones first. */
  *examples(tidy: Pick<Tidy, 'case' | 'allow'>): Generator<string> {
    const pleasant = tidy.case === 'keep' ? [PLAIN, CASED] : [PLAIN];
    for (const source of pleasant) {
      let some = pleasantPaths.get(source);
      if (!some) pleasantPaths.set(source, (some = new PathLanguage(automatonOf(source))));
      for (const set of wordSets(this.and(some).automaton)) yield* wordsIn(set);
    }
    for (const set of wordSets(this.and(PathLanguage.tidy(tidy)).automaton)) yield* wordsIn(set);
  }
}

const pleasantPaths = new Map<string, PathLanguage>();
const tidyPaths = new Map<string, PathLanguage>();

const once = <T>(make: () => T): (() => T) => {
  let made: T | undefined;
  return () => (made ??= make());
};
const allPaths = once(() => automatonOf(PATHS));

const sourceOf = (parts: readonly Part[]): string =>
  regexpSource(parts, (text) => text.replace(SYNTAX, '\\$&')).slice(1, -1);

const flagsOf = ({ ignoreCase }: Pattern): string => (ignoreCase ? 'iu' : 'u');

/** A pattern with its pieces there or not, as far as they may be absent. */
const formsOf = (parts: readonly Part[]): Part[][] =>
  parts.reduce<Part[][]>(
    (forms, part) => {
      const { modifier } = part;
      if (part.is === 'text' || modifier === '' || modifier === '+')
        return forms.map((form) => [...form, part]);
      const there: Part = { ...part, modifier: modifier === '?' ? '' : '+' };
      return forms.length > MOST_FORMS
        ? forms
        : [...forms, ...forms.map((form) => [...form, there])];
    },
    [[]],
  );

/** A target with the pieces that are there; as `fillPattern` fills it. */
function mouldOf({ parts }: Pattern, there: readonly Part[]): Mould {
  const names = new Set(there.flatMap((part) => (part.is === 'text' ? [] : [part.name])));
  return parts
    .flatMap((part): Mould => {
      const isOptional = part.modifier === '?' || part.modifier === '*';
      if (part.is === 'text') return isOptional ? [] : [part.value];
      if (names.has(part.name)) return [part.prefix, { piece: part.name }, part.suffix];
      return isOptional ? [] : [part.prefix + part.suffix];
    })
    .filter((step) => step !== '');
}

/** A value between what stands around it. */
function around({ prefix, suffix }: Group, value: DFA): DFA {
  const { maxCharacter } = value;
  const made = NFA.fromWords([Words.fromStringToUnicode(prefix)], { maxCharacter });
  made.append(value);
  made.append(NFA.fromWords([Words.fromStringToUnicode(suffix)], { maxCharacter }));
  return deterministic(made);
}

/** What the pieces of a mould may be together so that an automaton reads it to the end; null for too many ways. */
function waysThrough(automaton: DFA, mould: Mould): ReadonlyMap<string, DFA>[] | null {
  type Node = DFA.ReadonlyNode;
  const finals: ReadonlySet<Node> = automaton.finals;
  const iterator = automaton.transitionIterator();
  const between = (from: Node, isFinal: (node: Node) => boolean): DFA =>
    DFA.fromTransitionIterator(
      { ...iterator, initial: from, isFinal },
      { maxCharacter: automaton.maxCharacter },
    );
  let ways: { node: Node; values: ReadonlyMap<string, DFA> }[] = [
    { node: automaton.initial, values: new Map() },
  ];
  for (const [i, step] of mould.entries()) {
    const next = mould[i + 1];
    ways = ways.flatMap(({ node, values }) => {
      if (typeof step === 'string') {
        const end = read(node, step);
        return end ? [{ node: end, values }] : [];
      }
      // Where nothing follows, each end will do; otherwise those from which the text that follows can be read.
      const ends: (readonly [Node, (node: Node) => boolean])[] =
        next === undefined
          ? [[automaton.finals.values().next().value ?? node, (one) => finals.has(one)]]
          : [...automaton.nodes()]
              .filter((one) => typeof next !== 'string' || read(one, next))
              .map((end) => [end, (one) => one === end]);
      return ends.flatMap(([end, isFinal]) => {
        const before = values.get(step.piece);
        const reading = between(node, isFinal);
        const value = before ? common(before, reading) : reading;
        return value.isEmpty ? [] : [{ node: end, values: new Map(values).set(step.piece, value) }];
      });
    });
    if (ways.length > MOST_WAYS) return null;
  }
  return ways.filter(({ node }) => finals.has(node)).map(({ values }) => values);
}

function read(from: DFA.ReadonlyNode, text: string): DFA.ReadonlyNode | undefined {
  let node: DFA.ReadonlyNode | undefined = from;
  for (const character of Words.fromStringToUnicode(text)) node = node?.out.get(character);
  return node;
}

function automatonOf(source: string, flags = 'u'): DFA {
  const { expression, maxCharacter } = JS.Parser.fromLiteral({ source, flags }).parse();
  const nodes = counting(NFA.nodeFactory);
  return deterministic(NFA.fromRegex(expression, { maxCharacter }, {}, nodes));
}

const common = (a: DFA, b: DFA): DFA =>
  deterministic(NFA.fromIntersection(a, b, counting(NFA.nodeFactory)));

function deterministic(automaton: NFA): DFA {
  const made = DFA.fromFA(automaton, counting(DFA.nodeFactory));
  made.minimize();
  return made;
}
