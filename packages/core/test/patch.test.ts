import fc from 'fast-check';
import { parse } from 'yaml';
import { type model, siteFiles } from '../src/index.ts';
import { expectEqual, sampleText } from './support.ts';

const FILE = `# head
site:
  name: T # a name
  tidy: { case: lower }   # spaces stay

pages:
  # the first page
  /: Home
  /a:  { title: "A", draft: yes } # odd spaces
  /b:
    title: B   # in a block

list:
  - one # first
  - { from: /x, to: /y }
empty: {}
`;
const patch = (...operations: model.PatchOperation[]): string =>
  siteFiles.patchSite(FILE, operations);

describe('patching a site file', () => {
  test.each<[string, model.PatchOperation, string, string]>([
    [
      'adds to a block',
      { op: 'add', path: '/pages/~1c', value: 'C' },
      '    title: B   # in a block\n',
      '    title: B   # in a block\n  /c: C\n',
    ],
    [
      'adds an object on one line',
      { op: 'add', path: '/pages/~1c', value: { title: 'C', draft: 'yes' } },
      '    title: B   # in a block\n',
      '    title: B   # in a block\n  /c: { title: C, draft: yes }\n',
    ],
    [
      'adds what is too long for one line with a line for each entry, and what has lines as they are',
      {
        op: 'add',
        path: '/pages/~1c',
        value: { title: 'C', note: 'one\ntwo', links: Array<string>(30).fill('/linked') },
      },
      '    title: B   # in a block\n',
      `    title: B   # in a block\n  /c:\n    title: C\n    note: |-\n      one\n      two\n    links:\n${'      - /linked\n'.repeat(30)}`,
    ],
    [
      'replaces a text',
      { op: 'replace', path: '/site/name', value: 'New: name' },
      'name: T # a name',
      'name: "New: name" # a name',
    ],
    [
      'adds to braces',
      { op: 'add', path: '/pages/~1a/listed', value: 'no' },
      '{ title: "A", draft: yes } # odd',
      '{ title: "A", draft: yes, listed: no } # odd',
    ],
    [
      'removes a line',
      { op: 'remove', path: '/pages/~1a' },
      '  /a:  { title: "A", draft: yes } # odd spaces\n',
      '',
    ],
    [
      'removes a block',
      { op: 'remove', path: '/pages/~1b' },
      '  /b:\n    title: B   # in a block\n',
      '',
    ],
    [
      'adds to a list',
      { op: 'add', path: '/list/-', value: { from: '/z' } },
      '  - { from: /x, to: /y }\n',
      '  - { from: /x, to: /y }\n  - { from: /z }\n',
    ],
    ['removes from a list', { op: 'remove', path: '/list/0' }, '  - one # first\n', ''],
    ['replaces in a list', { op: 'replace', path: '/list/1/to', value: '/w' }, 'to: /y', 'to: /w'],
    [
      'fills what is empty',
      { op: 'add', path: '/empty/x', value: 1 },
      'empty: {}',
      'empty: { x: 1 }',
    ],
    [
      'makes a section',
      { op: 'add', path: '/gates/g', value: { admit: 'anyone' } },
      'empty: {}\n',
      'empty: {}\n\ngates:\n  g: { admit: anyone }\n',
    ],
  ])('%s, and changes nothing else by a character', (_, operation, before, after) => {
    expect(FILE).toContain(before);
    expect(patch(operation)).toBe(FILE.replace(before, () => after));
  });

  test.each([
    ['pages:\n', '/pages/~1a', 'pages:\n  /a: A\n'],
    ['x:\n  y:\n', '/x/y', 'x:\n  y: A\n'],
    ['{"pages": {}}', '/pages/~1a', '{"pages": {"/a":"A"}}'],
    // A section is a map or a list whatever its first entry is called.
    ['{}', '/roles/-', '{"roles":{"-":"A"}}'],
    ['{}', '/redirects/-', '{"redirects":["A"]}'],
    ['{}', '/redirects/0', '{"redirects":["A"]}'],
  ])('%j with a value at %s is %j', (text, path, expected) => {
    expect(siteFiles.patchSite(text, [{ op: 'add', path, value: 'A' }])).toBe(expected);
  });

  test('applies all of it or nothing', () => {
    const operations: model.PatchOperation[] = [
      { op: 'replace', path: '/site/name', value: 'X' },
      { op: 'remove', path: '/pages/~1none' },
    ];
    expect(() => patch(...operations)).toThrow(siteFiles.PatchProblem);
    expect(() => patch({ op: 'test', path: '/site/name', value: 'X' })).toThrow('another one');
    expect(patch({ op: 'test', path: '/site/name', value: 'T' })).toBe(FILE);
    for (const path of ['', 'site', '/site/none/deeper', '/list/9']) {
      expect(() => patch({ op: 'replace', path, value: 1 })).toThrow(siteFiles.PatchProblem);
    }
  });

  test('operations in a row do what each of them does after the other', () => {
    const name = fc.constantFrom('a', 'b', 'c', 'd', 'e');
    const operation = fc.oneof(
      fc.record({
        op: fc.constant('add'),
        path: name.map((one) => `/map/${one}`),
        value: fc.nat(9),
      }),
      fc.record({ op: fc.constant('add'), path: fc.constant('/list/-'), value: fc.nat(9) }),
      fc.record({
        op: fc.constant('add'),
        path: name.map((one) => `/flow/${one}`),
        value: fc.nat(9),
      }),
      fc.record({
        op: fc.constant('replace'),
        path: name.map((one) => `/map/${one}`),
        value: fc.nat(9),
      }),
      fc.record({ op: fc.constant('remove'), path: name.map((one) => `/map/${one}`) }),
      fc.record({ op: fc.constant('remove'), path: fc.constant('/list/0') }),
    ) as fc.Arbitrary<model.PatchOperation>;
    const file =
      'map:\n  a: 1 # one\n  # before b\n  b: 2\n  z: 0\nlist:\n  - 1\n  - 2\nflow: { a: 1 }\n';
    fc.assert(
      fc.property(fc.array(operation, { maxLength: 8 }), (operations) => {
        const attempt = (run: () => string): unknown => {
          try {
            return parse(run());
          } catch (error) {
            if (error instanceof siteFiles.PatchProblem) return 'refused';
            throw error;
          }
        };
        expect(attempt(() => siteFiles.patchSite(file, operations))).toEqual(
          attempt(() => operations.reduce((text, one) => siteFiles.patchSite(text, [one]), file)),
        );
      }),
      { numRuns: 500 },
    );
  });

  test('on the sample site any change of an entry is that change and no other', () => {
    const sample = sampleText();
    const data = parse(sample) as Record<string, Record<string, unknown>>;
    const entries = ['pages', 'gates', 'visitors', 'roles', 'audiences'].flatMap((section) =>
      Object.keys(data[section]!).map((name) => [section, name] as const),
    );
    const value = fc.oneof(
      fc.string(),
      fc.record({ title: fc.string(), draft: fc.constant('yes') }),
      fc.constant(['/a', '/b: c']),
    );
    fc.assert(
      fc.property(
        fc.constantFrom(...entries),
        fc.constantFrom('replace', 'remove', 'add'),
        value,
        ([section, name], op, next) => {
          const key = op === 'add' ? `${name}-new` : name;
          const path = `/${section}/${key.replace(/~/g, '~0').replace(/\//g, '~1')}`;
          const changed = siteFiles.patchSite(sample, [
            op === 'remove' ? { op, path } : { op: op as 'add', path, value: next },
          ]);
          const expected = structuredClone(data);
          if (op === 'remove') Reflect.deleteProperty(expected[section]!, key);
          else expected[section]![key] = next;
          expectEqual(parse(changed), expected);
          const comments = (text: string): number =>
            text.split('\n').filter((line) => /^\s*#/.test(line)).length;
          expect(comments(changed)).toBeGreaterThanOrEqual(
            comments(sample) - (op === 'add' ? 0 : 2),
          );
        },
      ),
      { numRuns: 50 },
    );
  });
});
