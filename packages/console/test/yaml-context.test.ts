import { entriesIn, yamlContextAt } from '../src/draft/yaml-context.ts';

/** The context at the bar in a text. */
const at = (text: string) => yamlContextAt(text.replace('|', ''), text.indexOf('|'));

describe('what stands at a place of a site file', () => {
  test.each([
    ['sections', 'ki|', []],
    ['sections below others', 'site:\n  name: A\nga|', []],
    ['fields of the site', 'site:\n  na|', ['site']],
    ['fields within fields', 'site:\n  tidy:\n    ca|', ['site', 'tidy']],
    ['an empty line', 'gates:\n  crew:\n    admit: guest\n    |', ['gates', 'crew']],
    ['below comments and blank lines', 'gates:\n  crew:\n\n# no\n    ri|', ['gates', 'crew']],
    ['a new entry', 'gates:\n  crew:\n    admit: guest\n  |', ['gates']],
    ['an entry whose name has colons', 'pages:\n  /a/:b:\n    ti|', ['pages', '/a/:b']],
    ['an entry in quotes', 'pages:\n  "/a":\n    ti|', ['pages', '/a']],
    ['items of a list', 'redirects:\n  - fr|', ['redirects', '*']],
    ['items at the column of their list', 'redirects:\n- fr|', ['redirects', '*']],
    ['the second line of an item', 'redirects:\n  - from: /a\n    t|', ['redirects', '*']],
    [
      'a list within an entry',
      'gates:\n  g:\n    otherwise:\n      - who: guest\n        d|',
      ['gates', 'g', 'otherwise', '*'],
    ],
    ['in braces', 'gates:\n  g: { under: /a, ad|', ['gates', 'g']],
    ['in braces of a list', 'redirects:\n  - { from: /a/:b, t|', ['redirects', '*']],
    [
      'in braces of a list in braces',
      'gates:\n  g: { otherwise: [{ who: guest, d|',
      ['gates', 'g', 'otherwise', '*'],
    ],
  ])('a name: %s', (_, text, path) => {
    expect(at(text)).toEqual({ path, isName: true, before: '' });
  });

  test.each([
    ['a field', 'gates:\n  g:\n    admit: role w|', ['gates', 'g', 'admit'], 'role w'],
    ['in braces', 'gates:\n  g: { under: /a, admit: role w|', ['gates', 'g', 'admit'], 'role w'],
    ['in quotes', 'gates:\n  g: { admit: "role a, b |', ['gates', 'g', 'admit'], '"role a, b '],
    ['in a list', 'visitors:\n  v: { roles: [a, w|', ['visitors', 'v', 'roles', '*'], 'w'],
    ['in JSON', '{"gates":{"g":{"admit":"role |', ['gates', 'g', 'admit'], '"role '],
    [
      'in a list of lines',
      'gates:\n  g:\n    under:\n      - /a|',
      ['gates', 'g', 'under', '*'],
      '/a',
    ],
  ])('a value: %s', (_, text, path, before) => {
    expect(at(text)).toEqual({ path, isName: false, before });
  });
});

test.each(['gates:\n  # ad|', 'gates:\n  g: { admit: guest } # ad|'])(
  'a comment is nothing to complete: %j',
  (text) => {
    expect(at(text)).toBeNull();
  },
);

test('the entries of a section are found, with what is said of them', () => {
  const text =
    'roles:\n  # people\n  warden: Keeps it\n  "night ringer":\nproducts: { a: { title: A }, b: {} }\n';
  expect([...entriesIn(text, 'roles')]).toEqual([
    ['warden', 'Keeps it'],
    ['night ringer', ''],
  ]);
  expect([...entriesIn('roles: { warden: Keeps it, ringer: Rings }\n', 'roles').keys()]).toEqual([
    'warden',
    'ringer',
  ]);
  expect([...entriesIn(text, 'products').keys()]).toEqual(['a', 'b']);
  expect([...entriesIn(text, 'groups')]).toEqual([]);
});
