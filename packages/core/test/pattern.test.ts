import { exampleOf } from '../src/pattern/example.ts';
import { describePatternProblem } from '../src/wording/pattern-problem.ts';
import fc from 'fast-check';
import { fillPattern } from '../src/pattern/fill.ts';
import { buildIndex, lookUp, type Indexed } from '../src/pattern/pattern-index.ts';
import type { Pattern } from '../src/model/pattern.ts';
import { groupsTaken } from '../src/pattern/matched-groups.ts';
import { regexpOf } from '../src/pattern/regexp.ts';
import { escapePattern } from '../src/pattern/escape.ts';
import { parsePattern } from '../src/pattern/parse.ts';
import { fillTarget, groupsWanted, parseTarget } from '../src/pattern/target.ts';
import { PatternSyntaxError } from '../src/pattern/pattern-syntax-error.ts';

const rule = (text: string, more: Partial<Indexed<string>> = {}): Indexed<string> => ({
  rule: text,
  pattern: parsePattern(text),
  under: false,
  rank: 0,
  fields: 0,
  values: 0,
  conditional: false,
  name: text,
  ...more,
});
const found = (rules: readonly Indexed<string>[], path: string): string[] =>
  lookUp(buildIndex(rules), path).map((match) => match.rule);
const groups = (text: string, path: string) => lookUp(buildIndex([rule(text)]), path)[0]?.groups;

function patternOrNull(text: string): Pattern | null {
  try {
    return parsePattern(text);
  } catch {
    return null;
  }
}

/** What a regular expression takes, with the rule of ECMAScript for groups that take no part. */
function takenByRegexp(pattern: Pattern, path: string): Record<string, string> {
  const matcher = regexpOf(pattern).matcher(path);
  if (!matcher.matches()) return {};
  const parts = pattern.parts.filter((part) => part.is !== 'text');
  return Object.fromEntries(
    parts.flatMap((part, i) => {
      const value = matcher.group(i + 1);
      const isNothing = value === '' && part.modifier === '?' && part.prefix + part.suffix === '';
      return value === null || isNothing ? [] : [[part.name, value]];
    }),
  );
}

test('groups take what a regular expression takes, in 20,000 random patterns', () => {
  const PIECES = ['/a', '/b', '-', 'a', 'b', '{/x}?', '{a}?', '*', '/*', '*?', '{*a}?', '{a*}?'];
  const GROUPS = [':n', '/:n', ':n?', '/:n?', '{-:n}?', '{/:nb}?'];
  const piece = fc.oneof(fc.constantFrom(...PIECES), fc.constantFrom(...GROUPS));
  let matched = 0;
  fc.assert(
    fc.property(
      fc.array(piece, { minLength: 1, maxLength: 7 }),
      fc.array(fc.constantFrom('a', 'b', '/', '-', 'x', 'a/'), { maxLength: 8 }),
      (pieces, path) => {
        const text = `/${pieces.map((one, i) => one.replace('n', `n${i}x`)).join('')}`;
        const pattern = patternOrNull(text);
        if (!pattern) return;
        const taken = takenByRegexp(pattern, `/${path.join('')}`);
        if (Object.keys(taken).length > 0) matched++;
        expect(groupsTaken(pattern, `/${path.join('')}`)).toEqual(taken);
      },
    ),
    { numRuns: 20_000 },
  );
  expect(matched).toBeGreaterThan(1_000);
});

describe('patterns', () => {
  test.each([
    ['/a/:x', '/a/b', { x: 'b' }],
    ['/a/*', '/a/b/c', { 0: 'b/c' }],
    ['/a/*', '/a/', { 0: '' }],
    ['/a/*', '/a', undefined],
    ['/:a/b{/*}?', '/x/b', { a: 'x' }],
    ['/:a/b{/*}?', '/x/b/c', { a: 'x', 0: 'c' }],
    ['/:id(\\d+)', '/118', { id: '118' }],
    ['/:id(\\d+)', '/x118', undefined],
    ['/post-:id.html', '/post-7.html', { id: '7' }],
    ['{/old}?/x', '/x', {}],
    ['{/old}?/x', '/old/x', {}],
    ['/:path+', '/a/b/c', { path: 'a/b/c' }],
    ['/x/:path*', '/x', {}],
    ['/*/end', '/a/b/end', { 0: 'a/b' }],
    ['/:year(\\d{4})/:slug', '/2025/owl', { year: '2025', slug: 'owl' }],
  ])('%s against %s gives %j', (text, path, expected) => {
    expect(groups(text, path)).toEqual(expected);
  });

  test.each([
    ['/a?x=1', 2, 'A query is no part of a pattern.'],
    ['/:', 1, 'Write \\: for a colon.'],
    ['/:x/:x', 4, 'Give one of the two another name.'],
    ['/(a', 1, 'Add ")".'],
    ['/{a', 3, 'Add "}".'],
    ['/((a))', 2, 'Write (?: for the inner group.'],
    ['/:x((a+)+)', 4, 'Write (?:'],
    ['/:x(a\\1)', 4, 'Spell out'],
    ['/:x((?=a)a)', 4, 'Write two patterns'],
    ['/a%zz', 0, 'Write % as %25.'],
    ['/a\\', 2, 'Write \\\\'],
  ])('%s is refused at %i', (text, offset, remedy) => {
    let problem: unknown;
    try {
      parsePattern(text);
    } catch (error) {
      problem = error;
    }
    expect(problem).toBeInstanceOf(PatternSyntaxError);
    expect((problem as PatternSyntaxError).offset).toBe(offset);
    expect(describePatternProblem((problem as PatternSyntaxError).problem).remedy).toContain(
      remedy,
    );
  });

  test('an expression that makes a backtracking engine explode is matched in linear time', () => {
    const path = `/${'a'.repeat(7000)}!`;
    expect(found([rule('/:x((?:a|a)*)')], path)).toEqual([]);
    expect(found([rule('/:x((?:a*)*b)')], path)).toEqual([]);
  });

  test('an escaped address is a pattern that matches itself', () => {
    fc.assert(
      fc.property(fc.stringMatching(/^\/[a-z:*+?(){}.]{1,8}$/), (address) => {
        const canonical = address.replace(
          /[?{}]/g,
          (one) => `%${one.charCodeAt(0).toString(16).toUpperCase()}`,
        );
        expect(found([rule(escapePattern(address))], canonical)).toHaveLength(1);
      }),
    );
  });
});

describe('the more specific of two patterns comes first', () => {
  test.each([
    ['/a/b', '/a/:x', '/a/b'],
    ['/a/:x', '/a/*', '/a/b'],
    ['/a/b-:x', '/a/:x', '/a/b-1'],
    ['/a/:x(\\d+)', '/a/:x', '/a/1'],
    ['/a/*', '/:x/b', '/a/b'],
    ['/a/:x/*', '/a/*', '/a/b/c'],
    ['/*/c', '/:rest+', '/a/b/c'],
  ])('%s before %s', (first, second, path) => {
    const ordered = [first, second];
    expect(found([rule(first), rule(second)], path)).toEqual(ordered);
    expect(found([rule(second), rule(first)], path)).toEqual(ordered);
  });

  test('the exact address before the section, and the deeper section before the other', () => {
    const rules = [
      rule('/a', { under: true }),
      rule('/a/b', { under: true, rule: 'deep' }),
      rule('/a/b'),
    ];
    expect(found(rules, '/a/b')).toEqual(['/a/b', 'deep', '/a']);
    expect(found(rules, '/a/b/c')).toEqual(['deep', '/a']);
    expect(found(rules, '/ab')).toEqual([]);
  });

  test('the section of the whole site covers everything', () => {
    const rules = [rule('/', { under: true })];
    expect(found(rules, '/')).toEqual(['/']);
    expect(found(rules, '/x/y')).toEqual(['/']);
  });

  test('with a condition before without, and rank before all', () => {
    const plain = rule('/a', { rule: 'plain' });
    const conditional = rule('/a', { rule: 'conditional', conditional: true });
    const ranked = rule('/*', { rule: 'ranked', rank: 1 });
    expect(found([plain, conditional, ranked], '/a')).toEqual(['ranked', 'conditional', 'plain']);
  });

  test('the order of the rules never changes a result', () => {
    const texts = ['/a', '/:x', '/*', '/a/:y', '/:x/b', '/a/*', '/a-:z', '{/a}?/b', '/*/b', '/:p+'];
    const paths = ['/a', '/b', '/a/b', '/a-b', '/c/b', '/a/b/c', '/x/y/b'];
    fc.assert(
      fc.property(fc.shuffledSubarray(texts, { minLength: 2 }), (some) => {
        const sorted = [...some].sort().map((text) => rule(text));
        const shuffled = some.map((text) => rule(text));
        for (const path of paths) expect(found(shuffled, path)).toEqual(found(sorted, path));
      }),
    );
  });

  test('the home page comes before a pattern that matches it', () => {
    const rules = ['/*', '/'].map((text) => rule(text));
    expect(found(rules, '/')).toEqual(['/', '/*']);
  });
});

describe('targets', () => {
  const fill = (text: string, values: Record<string, string>, kept = ''): string =>
    fillTarget(parseTarget(text), values, kept);

  test.each([
    ['/journal/:slug', { slug: 'owl' }, '', '/journal/owl'],
    ['/:b/:a', { a: '1', b: '2' }, '', '/2/1'],
    ['/*', { 0: 'x/y' }, '', '/x/y'],
    ['/find?q=:q', { q: 'a&b%20c' }, '', '/find?q=a%26b%20c'],
    ['/find?q=:q', { q: 'a' }, 'page=2', '/find?q=a&page=2'],
    ['/new', {}, 'page=2', '/new?page=2'],
    ['/new#part', {}, '', '/new#part'],
    ['https://other.example/*', { 0: 'x' }, '', 'https://other.example/x'],
    ['https://other.example', {}, '', 'https://other.example/'],
  ])('%s with %j and the query %j is %s', (text, values, kept, expected) => {
    expect(fill(text, values, kept)).toBe(expected);
  });

  test('no value can turn a path into a host', () => {
    expect(fill('/*', { 0: '/evil.example' })).toBe('/evil.example');
  });

  test('what a target wants to be filled with', () => {
    expect(groupsWanted(parseTarget('/a/:x?y=:z'))).toEqual(['x', 'z']);
  });

  test.each(['new', '//evil.example', ':x'])('%s is no target', (text) => {
    expect(() => parseTarget(text)).toThrow(PatternSyntaxError);
  });

  test('filling is the inverse of matching', () => {
    const pieces = fc.array(fc.constantFrom('/a', '/:x', '/b-:y', '/:z(\\d+)'), {
      minLength: 1,
      maxLength: 4,
    });
    const value = fc.stringMatching(/^[1-9]{1,4}$/);
    fc.assert(
      fc.property(
        fc.uniqueArray(pieces, { maxLength: 1, minLength: 1 }),
        value,
        ([parts], text) => {
          fc.pre(
            new Set(parts!.filter((part) => part.includes(':'))).size ===
              parts!.filter((part) => part.includes(':')).length,
          );
          const pattern = parsePattern(parts!.join(''));
          const values = Object.fromEntries(pattern.names.map((name) => [name, text]));
          const address = fillPattern(pattern, values);
          expect(groups(pattern.text, address)).toEqual(values);
        },
      ),
    );
  });
});

test('an example of a group with very many words of one length is found at once', () => {
  const pattern = parsePattern('/:code((?:ab|cd|ef){25})');
  expect(exampleOf(pattern, null)).toBe(`/${'ab'.repeat(25)}`);
});
