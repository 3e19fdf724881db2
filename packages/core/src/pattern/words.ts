import { DFA, JS, NFA, Words, type CharRange } from 'refa';

/** For each character of some words, what it may be. */
type WordSet = readonly (readonly CharRange[])[];

/** The words that an automaton reads, the shortest first. Whatever is begun can be ended: there are no dead ends. */
export function* wordSets(automaton: DFA): Generator<WordSet> {
  type Node = DFA.ReadonlyNode;
  const finals: ReadonlySet<Node> = automaton.finals;
  const edges = new Map<Node, [Node, CharRange[]][]>();
  for (const node of automaton.nodes()) {
    const own = new Map<Node, CharRange[]>();
    for (const [range, to] of node.out) own.set(to, [...(own.get(to) ?? []), range]);
    edges.set(node, [...own]);
  }
  // By the number of characters that are left, the nodes from which a word ends with them.
  const ending: Set<Node>[] = [new Set(finals)];
  const endingWith = (left: number): ReadonlySet<Node> => {
    while (ending.length <= left) {
      const next = ending.at(-1)!;
      const nodes = [...edges].filter(([, out]) => out.some(([to]) => next.has(to)));
      ending.push(new Set(nodes.map(([node]) => node)));
    }
    return ending[left]!;
  };
  function* from(node: Node, left: number, before: WordSet): Generator<WordSet> {
    if (left === 0) yield before;
    else
      for (const [to, ranges] of edges.get(node)!)
        if (endingWith(left - 1).has(to)) yield* from(to, left - 1, [...before, ranges]);
  }
  // A finite set has no word that is longer than there are nodes.
  for (let length = 0; length <= edges.size * 2; length++)
    if (endingWith(length).has(automaton.initial)) yield* from(automaton.initial, length, []);
}

/** Some words of a set that differ in each of their characters: the smallest first. */
export function* wordsIn(set: WordSet): Generator<string> {
  const choices = set.map((ranges) =>
    ranges
      .flatMap(({ min, max }) =>
        Array.from({ length: Math.min(max - min + 1, MOST_CHOICES) }, (_, i) => min + i),
      )
      .slice(0, MOST_CHOICES),
  );
  const most = Math.max(1, ...choices.map(({ length }) => length));
  for (let i = 0; i < most; i++)
    yield Words.fromUnicodeToString(choices.map((some) => some[Math.min(i, some.length - 1)]!));
}

/** Each of them costs a look-up. */
const MOST_CHOICES = 12;

/** Characters that mean nothing else in any address. */
const PLAIN_WORD = /[A-Za-z0-9][A-Za-z0-9_~-]*(?:[.][A-Za-z0-9_~-]+)*/;
/** One that could match slashes, or needs other characters, is given them only where nothing else fits. */
const ANY_WORD = /[!-.0-~]+/;
const MOST_NODES = 5000;

/**
 * Words that the regular expression of a custom group matches, the shortest first.
 * @param limit how many are wanted
 * @returns none where nothing that can stand in an address matches, or the expression is too large to tell
 */
export function wordsOfGroup(source: string, limit: number): string[] {
  try {
    const group = automatonOf(source);
    for (const allowed of [PLAIN_WORD, ANY_WORD]) {
      const words: string[] = [];
      const nodes = new NFA.LimitedNodeFactory(MOST_NODES);
      const both = NFA.fromIntersection(group, automatonOf(allowed.source), nodes);
      const limited = new DFA.LimitedNodeFactory(MOST_NODES);
      for (const set of wordSets(DFA.fromFA(both, limited))) {
        const [word] = wordsIn(set);
        if (words.push(word!) === limit) break;
      }
      if (words.length > 0) return words;
    }
  } catch {
    // Too large, or with something that no automaton has: nobody needs an example that badly.
  }
  return [];
}

function automatonOf(source: string): NFA {
  const { expression, maxCharacter } = JS.Parser.fromLiteral({ source, flags: 'u' }).parse();
  const factory = new NFA.LimitedNodeFactory(MOST_NODES);
  return NFA.fromRegex(expression, { maxCharacter }, {}, factory);
}
