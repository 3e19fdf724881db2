import { queries, siteFiles } from '../src/index.ts';
import { readVisitor } from '../src/site/read/read-visitor.ts';
import { errorsOf, printError, siteOf } from './support.ts';

const codes = (body: string): string[] => errorsOf(body).map(({ code }) => code);

describe('the site file', () => {
  test('ten different mistakes give ten errors, each at its line and column', () => {
    const text = `kleidon: 1
site: { name: Ten, address: https://ten.example, ungated: shut }
roles: { volunteer: Helps }
products: { permit: { title: Permit, term: yearly } }
audiences:
  crew: role volunter
pages:
  /a: { titel: A }
  /b: { title: B, until: 2027-02-30 }
  /c/:id(\\d+: C
gates:
  g: { under: /a, admit: crew and }
  h: { under: /b, admit: members }
redirects:
  - { from: /x }
  - { from: '/y/:name', to: '/z/:nam' }
`;
    const read = siteFiles.readSite(text, 'ten.yaml');
    expect(
      read.ok
        ? []
        : queries.explainErrors(read.errors).map((e) => [e.line, e.column, e.code, e.remedy]),
    ).toEqual([
      [2, 59, 'wrong-value', 'Known: open, closed.'],
      [4, 44, 'wrong-value', 'Known: subscription, once.'],
      [6, 14, 'unknown-role', 'Did you mean "volunteer"?'],
      [8, 9, 'unknown-field', 'Did you mean "title"?'],
      [9, 26, 'date', 'Write it as 2027-03-01 or 2027-03-01T09:30.'],
      [10, 3, 'pattern', 'Add ")".'],
      [12, 34, 'condition', expect.stringContaining('Write anyone, guest')],
      [13, 26, 'unknown-audience', 'Known: crew.'],
      [15, 5, 'missing-field', 'Add it: to: /new'],
      [16, 29, 'unknown-piece', 'Did you mean "name"?'],
    ]);
  });

  test('JSON is read too', () => {
    const text = JSON.stringify({
      kleidon: 1,
      site: { name: 'J', address: 'https://j.example' },
      pages: { '/': 'Home' },
    });
    expect(siteFiles.readSite(text, 'j.json')).toMatchObject({
      ok: true,
      site: { name: 'J', pages: [{ title: 'Home' }] },
    });
  });

  test.each([
    ['', 'wrong-type'],
    ['just words', 'wrong-type'],
    ['- a list', 'wrong-type'],
    ['{', 'yaml'],
    ['a: &a [*a]', 'yaml'],
    ['\u0000', 'wrong-type'],
  ])('%j is refused without a crash', (text, code) => {
    const read = siteFiles.readSite(text, 'x.yaml');
    const found = read.ok ? [] : read.errors.map((error) => error.code);
    expect(found).toContain(code);
  });

  test('values that multiply themselves are refused', () => {
    const layers = Array.from(
      { length: 12 },
      (_, i) => `x${i + 1}: &x${i + 1} [${Array(9).fill(`*x${i}`).join(', ')}]`,
    );
    const read = siteFiles.readSite(['x0: &x0 [a]', ...layers].join('\n'), 'x.yaml');
    expect(read.ok ? [] : read.errors.map(({ code }) => code)).toContain('yaml');
  });

  test.each([
    [
      'roles: { admin: A, "\u0430dmin": B }',
      ['"\u0430dmin" looks like "admin", and is another name: "\u0430" in "\u0430dmin" is U+0430.'],
    ],
    [
      'groups: { "\u0441\u043e\u0440\u0430": A, copa: B }',
      [expect.stringMatching(/^"copa" looks like "/)],
    ],
    [
      'roles: { "ad\u200bmin": A }',
      [expect.stringContaining('has the character U+200B, which nobody sees')],
    ],
    ['gates: { "g\u2060": { at: /, admit: guest } }', [expect.stringContaining('U+2060')]],
    [String.raw`roles: { "ad\0min": A }`, [expect.stringContaining('U+0000')]],
    // Whoever writes a language of other letters may; so may names that differ in letters of ASCII.
    [
      'roles: { \u0441\u043e\u0440\u0430: A, \u0432\u043e\u043b\u043a: B, memberl: C, member1: D, barn: E, bam: F }',
      [],
    ],
    ['roles: { caf\u00e9: A, cafe: B }', []],
  ])('names that nobody can tell apart are refused: %s', (body, messages) => {
    expect(errorsOf(`${body}\npages: { /: Home }\n`).map(({ message }) => message)).toEqual(
      messages,
    );
  });

  test.each([
    ['pages:\n  /a: A\n  /a: B', 'yaml'],
    ['pages:\n  /a: A\n  /A/: B', 'same-address'],
    ['pages:\n  a: A', 'pattern'],
    ['pages: [/a]', 'wrong-type'],
    ['redirects: { /a: /b }', 'wrong-type'],
    ['gates:\n  g: { admit: guest }', 'missing-field'],
    ['gates:\n  g:', 'wrong-type'],
    ['gates:\n  g: { at: /, admit: guest, otherwise: [{ do: send }] }', 'missing-field'],
    ['gates:\n  g: { at: /, admit: guest, otherwise: [{ do: hide, say: x }] }', 'wrong-value'],
    ['gates:\n  g: { at: /, admit: visitor.id = path.person }', 'unknown-piece'],
    ['gates:\n  g: { at: /, admit: guest, rank: high }', 'wrong-type'],
    ['audiences: { a: b, b: a }', 'audience-circle'],
    ['audiences: { guest: anyone }', 'wrong-value'],
    ['audiences: { "a b": anyone }', 'wrong-value'],
    ['not-found: [{ under: / }]', 'missing-field'],
    ['not-found: [{ under: /, show: /x, status: 500 }]', 'wrong-value'],
    ['redirects: [{ from: /a, to: b }]', 'pattern'],
    ['redirects: [{ from: /a, to: /b, since: 2027-02-01, until: 2027-01-01 }]', 'date'],
    ['redirects: [{ from: "https://", to: /b }]', 'address'],
    ['visitors: { v: { guest: yes, roles: [] } }', 'wrong-value'],
    ['visitors: { v: { roles: [king] } }', 'unknown-role'],
    ['visitors: { v: { bought: [{ product: permit }] } }', 'unknown-product'],
    ['visitors: { v: { bought: [{}] } }', 'missing-field'],
    ['redirect-lists: [none.csv]', 'no-such-list'],
    ['pages: { /a: { aliases: /b }, /b: B }', 'same-address'],
    ['pages: { /a: { aliases: /b }, /c: { aliases: /B/ } }', 'same-address'],
    ['pages: { "/a/:b": { aliases: /b } }', 'wrong-value'],
    ['pages: { /a: { aliases: "/b/:c" } }', 'wrong-value'],
    ['pagse: {}', 'unknown-field'],
  ])('%j is the error %s', (body, code) => {
    expect(codes(body)).toContain(code);
  });

  test.each([
    ['gates: { g: { at: /x, admit: [a, guest] } }', 'Join them by "or": admit: role a or guest'],
    ['landings: [{ after: sign-in, go: /, who: [role a] }]', 'Join them by "or": who: role a'],
    ['gates: { g: { at: "/x/:y#map", admit: guest } }', 'Write /x/:y.'],
    ['redirects: [{ from: "/x#(a)", to: /y }]', 'Write /x.'],
    ['redirects: [{ from: /a, to: /b, kind: 300 }]', 'Known: permanent, temporary.'],
  ])('%j has the remedy %j', (body, remedy) => {
    expect(errorsOf(body).map((error) => error.remedy)).toEqual([remedy]);
  });

  test.each([
    [301, 'permanent'],
    [308, 'permanent'],
    [302, 'temporary'],
    [303, 'temporary'],
    [307, 'temporary'],
  ])('a redirect of kind %d is %s', (code, kind) => {
    const { redirects } = siteOf(`redirects: [{ from: /a, to: /b, kind: ${code} }]`).site;
    expect(redirects.map((one) => one.kind)).toEqual([kind]);
  });

  test('one mistake is one error', () => {
    const errors = errorsOf(
      'audiences: { crew: role nobody-knows }\ngates:\n  g: { under: /a, admit: crew }',
    );
    expect(errors.map(printError)).toHaveLength(1);
    const unclosed = siteFiles.readSite('kleidon: 1\nsite: { name: [}\n', 'x.yaml');
    expect(unclosed.ok ? [] : unclosed.errors.map(({ code }) => code)).toEqual(['yaml', 'yaml']);
    const broken = errorsOf(
      'products: { permit: { term: weekly } }\naudiences: { buyers: bought permit }',
    );
    expect(broken.map(({ code }) => code)).toEqual(['wrong-value']);
  });

  test.each(['ungated: &a [*a]', 'tidy: &a { case: { x: *a } }', 'also: &a [&b [*a], *b]'])(
    'an alias within what it stands for is an error, and no value without end: %s',
    (field) => {
      const text = `kleidon: 1\nsite: { name: T, address: https://t.example, ${field} }\n`;
      const read = siteFiles.readSite(text, 'x.yaml');
      const errors = read.ok ? [] : queries.explainErrors(read.errors);
      expect(errors).toMatchObject([
        { code: 'yaml', line: 2, message: expect.stringContaining('*a stands within') as string },
      ]);
      expect(siteFiles.valueOf(text)).toEqual({});
    },
  );

  test('every default is filled in', () => {
    const { site } = siteOf(
      'pages:\n  /a/:x: A\n  /files/map.pdf:',
      'kleidon: 1\nsite: { name: T, address: https://t.example }\n',
    );
    expect(site).toMatchObject({
      ungated: 'open',
      change: 'as-view',
      signIn: null,
      timeZone: 'UTC',
      also: [],
    });
    expect(site.pages.map(({ title, example }) => [title, example])).toEqual([
      ['A', '/a/x'],
      ['Map', '/files/map.pdf'],
    ]);
  });

  test('the example of a page is one that is there, where one is easily found', () => {
    const { site } = siteOf(
      'pages:\n  /l/:n(\\d+): { missing-unless: path.n >= 3 and path.n <= 12 }',
    );
    expect(site.pages[0]!.example).toBe('/l/3');
  });

  test('a visitor made up on the spot has the same shape, and the same errors', () => {
    const { site } = siteOf('roles: { warden: x }');
    expect(readVisitor('{ roles: [warden] }', site)).toMatchObject({
      ok: true,
      visitor: { roles: ['warden'], guest: false },
    });
    expect(readVisitor('{ roles: [wardn] }', site)).toMatchObject({
      ok: false,
      errors: [{ problem: { code: 'unknown-role', suggestion: { meant: 'warden' } } }],
    });
    expect(readVisitor('{ role: warden }', site)).toMatchObject({
      ok: false,
      errors: [{ code: 'unknown-field' }],
    });
  });

  test('a file with 20,000 pages is read in a time that grows with its length', () => {
    const body = `pages:\n${Array.from({ length: 20_000 }, (_, i) => `  /s${i % 50}/p${i}: P${i}\n`).join('')}`;
    expect(siteOf(body).site.pages).toHaveLength(20_000);
  });
});
