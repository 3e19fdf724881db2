import fc from 'fast-check';
import { decisions } from '../src/index.ts';
import { GUEST, errorsOf, NOW, siteOf } from './support.ts';

const head = (tidy: string): string =>
  `kleidon: 1\nsite: { name: N, address: https://n.example, tidy: { final-slash: keep, ${tidy} } }\n`;
const gated = (tidy: string, extent: string) =>
  siteOf(
    `pages: { /: Home, "/*": Everything }\ngates: { g: { ${extent}, admit: nobody } }`,
    head(tidy),
  );
/** Whether a visit to an address ends at the gate; a redirect to another spelling is followed. */
const isGated = (site: ReturnType<typeof gated>, address: string): boolean =>
  decisions
    .visit(site, { method: 'GET', address }, GUEST, NOW)
    .hops.at(-1)!
    .decision.reasons.some(({ rule, verdict }) => rule === 'gate g' && verdict === 'refused');

describe('a gate covers an address however either of them is spelled', () => {
  test.each([
    ['words: _', 'under: "/in-box/:x"', '/in_box/a'],
    ['words: _', 'under: "/in-box/:x"', '/in-box/a'],
    ['words: "-"', 'under: "/a/:rest+"', '/a/b/c'],
    ['words: "-"', 'at: "/a_b/:x(my_file|other)"', '/a_b/my_file'],
    ['words: "-"', 'at: "/a/:x(\\\\w+)"', '/a/my_file'],
    ['words: "-"', 'at: "/a/:x([a-z_]+)"', '/a/my%20file'],
    ['words: _', 'at: "/a/:x(b\\\\+c)"', '/a/b+c'],
    ['', 'under: "/a/:x/"', '/a/b'],
    ['', 'under: "/a//:x"', '/a/b/c'],
    ['', 'under: "/a//b"', '/a/b/c'],
    ['', 'at: "/a{/}?"', '/a/'],
    ['', 'at: "/a/:x{/}?"', '/a/b'],
    ['', 'at: "{/:x/}+"', '/a/b/c'],
    ['', 'at: "/x/../a"', '/a'],
    ['', 'at: "/a/:x(caf%c3%a9)"', '/a/CAF%C3%89'],
    ['', 'at: "/a/:x(%63rew)"', '/a/crew'],
    ['', 'at: "/a/:x(b c)"', '/a/b%20c'],
    ['', 'at: "/re\\\\u0301/:x"', '/r%C3%A9/a'],
    ['', 'at: "/r\\\\u00e9/:x"', '/re%CC%81/a'],
    ['index: [index]', 'at: "/a/:x/index"', '/a/b/index'],
    ['index: [index]', 'at: "/a/:x{/index}?"', '/a/b'],
    ['endings: [.html], index: [index]', 'at: "/a/:x/index.html"', '/a/b'],
    ['endings: [.html]', 'at: "/a/:x.html"', '/a/b.html'],
    ['endings: [.html]', 'at: "/a/:x{.html}?"', '/a/b'],
    ['case: keep', 'at: "/a/:x(%c3%a9)"', '/a/%c3%a9'],
  ])('{ %s }, %s: %s', (tidy, extent, address) => {
    const site = gated(tidy, extent.replaceAll('\\\\u', '\\u').replaceAll('\\\\', '\\\\'));
    expect(isGated(site, address)).toBe(true);
  });

  test.each([
    ['', '/a/{/b}?c', 'Write each slash'],
    ['', '/a/:x/../b', 'without "."'],
    ['', '/a/:x/./b', 'without "."'],
    ['', '/a;b', 'refused as ambiguous'],
    ['', '/a/:x.', 'refused as ambiguous'],
    ['', '/a/b%2541/:x', 'refused as ambiguous'],
    ['', '/a/:x(%zz)', 'malformed escape'],
    ['endings: [.html]', '/a/:x(b|c\\\\.html)', 'Leave it out of the group'],
    ['index: [index]', '/a/:x(index|b)', 'Leave it out of the group'],
    ['index: [index]', '/a/:x{/index/b}?', null],
  ])('{ %s } %s is an error: %s', (tidy, pattern, remedy) => {
    const text = `pages: { /: Home }\ngates: { g: { under: "${pattern}", admit: nobody } }`;
    const errors = errorsOf(text, head(tidy)).map(({ message, remedy }) => message + remedy);
    if (remedy === null) expect(errors).toEqual([]);
    else expect(errors).toEqual([expect.stringContaining(remedy)]);
  });

  test('in random patterns under random tidying: it is an error, or every spelling is covered', () => {
    const piece = fc.constantFrom(
      ...[
        '/',
        '/',
        '/a',
        '/in-box',
        '_b',
        '\\+c',
        '-d',
        ':x',
        '*',
        '{/e}?',
        '{/f/}?',
        '{-g}?',
        '(h|i_j)',
      ],
      ...[
        '(\\w+)',
        '([a-z]+)',
        '/index',
        '.html',
        '/É',
        'e\u0301',
        '%20',
        '{/:y}*',
        '{/:z/}+',
        '/..',
      ],
    );
    const tidies = fc.record({
      words: fc.constantFrom('-', '_', 'keep'),
      letters: fc.constantFrom('lower', 'keep'),
      endings: fc.constantFrom('[.html]', '[]'),
      index: fc.constantFrom('[index]', '[]'),
    });
    let built = 0;
    fc.assert(
      fc.property(
        fc.array(piece, { minLength: 1, maxLength: 6 }),
        tidies,
        fc.infiniteStream(fc.nat(1000)),
        (pieces, { words, letters, endings, index }, choices) => {
          const choose = <T>(from: readonly T[]): T => from[choices.next().value! % from.length]!;
          // An address that the pattern describes, read by a person: each piece by itself.
          const filled = pieces
            .map((one) => FILLINGS[one] ?? [one])
            .map(choose)
            .join('');
          const pattern = `/s${pieces.join('')}`;
          const asked = `/s${filled}`;
          fc.pre(
            !/[)}\w]\*/.test(pattern.replace(/[{]\/:y[}]\*/g, '')) &&
              !/[:*)}]\w|:x.*:x|\*.*\*/.test(pattern) &&
              !/\/\/\.\.|\.\./.test(asked),
          );
          const tidy = `words: "${words}", case: ${letters}, endings: ${endings}, index: ${index}`;
          const text = `pages: { /: Home, "/*": All }\ngates: { g: { at: ${JSON.stringify(pattern)}, admit: nobody } }`;
          if (errorsOf(text, head(tidy)).length > 0) return;
          built++;
          const { outcome } = decisions.visit(
            siteOf(text, head(tidy)),
            { method: 'GET', address: asked },
            GUEST,
            NOW,
          );
          if (outcome === 'reach') throw new Error(JSON.stringify([pattern, tidy, asked]));
        },
      ),
      { numRuns: 3000 },
    );
    expect(built).toBeGreaterThan(500);
  });
});

/** What stands in an address for each piece of a pattern that is not itself. */
const FILLINGS: Readonly<Record<string, readonly string[]>> = {
  ':x': ['v', 'My-w', 'k_l'],
  '*': ['q', 'q/r'],
  '\\+c': ['+c'],
  '{/e}?': ['', '/e'],
  '{/f/}?': ['', '/f/'],
  '{-g}?': ['', '-g'],
  '(h|i_j)': ['h', 'i_j'],
  '(\\w+)': ['m', 'n_o'],
  '([a-z]+)': ['p'],
  '{/:y}*': ['', '/s', '/s/t_u'],
  '{/:z/}+': ['/z/', '/z//z/'],
};
