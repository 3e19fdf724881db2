import { foldCase } from '../src/address/canonical-path.ts';
import { decisions } from '../src/index.ts';
import { GUEST, NOW, siteOf, someone } from './support.ts';

/** Every character but surrogates. */
const CHARACTERS = Array.from({ length: 0x110000 - 0x21 }, (_, i) => i + 0x21)
  .filter((code) => code < 0xd800 || code > 0xdfff)
  .map((code) => String.fromCodePoint(code));

/** All ignorable characters are tried outside of the suite. */
const IS_WHOLE = process.env['KLEIDON_SITES'] !== undefined;

/** Characters that are ignored by default, have another form, or are letters in two cases. */
const ODD = CHARACTERS.filter(
  (one) =>
    (/^\p{Default_Ignorable_Code_Point}$/u.test(one) &&
      (IS_WHOLE || one < '\u{e0000}' || one.codePointAt(0)! % 256 === 0)) ||
    one.normalize('NFKC') !== one ||
    one.toLowerCase() !== one ||
    one.toUpperCase() !== one,
);

/** Letters that are one letter in two cases, by the regular expressions of the platform. */
const isSameLetter = (one: string, other: string): boolean => {
  let regexp = regexps.get(one);
  if (!regexp) regexps.set(one, (regexp = new RegExp(`^[${one}]$`, 'iu')));
  return regexp.test(other);
};
const regexps = new Map<string, RegExp>();

const siteWith = (tidy: string) =>
  siteOf(
    `roles: { crew: x }
pages: { /: Home, /lessons: L, /crew: C, /klassen-straße: K, /masse: M, /οδος: O, /fillet: F, '/any/:x': Any }
gates:
  closed: { at: [/lessons, /crew, /klassen-straße, /masse, /οδος, /fillet, /any/team, /free/rota.pdf], admit: role crew }
  hidden: { at: /any/secret, admit: role crew, otherwise: [{ do: hide }] }
`,
    `kleidon: 1\nsite: { name: U, address: https://u.example, undeclared: website, tidy: { ${tidy} } }\n`,
  );
const CLOSED = [
  ...['/lessons', '/crew', '/klassen-straße', '/klassen-strasse', '/masse', '/maße', '/οδος'],
  ...['/οδοσ', '/fillet', '/any/team', '/any/secret', '/free/rota.pdf'],
];
const outcomeOf = (site: decisions.PreparedSite, path: string, who = GUEST): string =>
  decisions.decide(site, { method: 'GET', address: encodeURI(path) }, who, NOW).outcome;

/** Spellings of a path in which one character, or two, became one that servers may read in its place. */
function spellingsOf(path: string, ignoresCase: boolean): string[] {
  const spellings: string[] = [];
  const letters = [...path];
  for (const character of ODD) {
    if (/^\p{Default_Ignorable_Code_Point}$/u.test(character))
      for (let at = 1; at <= letters.length; at++)
        spellings.push([...letters.slice(0, at), character, ...letters.slice(at)].join(''));
    const compatible = character.normalize('NFKC');
    const upper = character.toUpperCase().toLowerCase();
    for (let at = 1; at < letters.length; at++)
      for (const length of [1, 2, 3]) {
        const part = letters.slice(at, at + length).join('');
        const isSame =
          (compatible === part && character !== part) ||
          (ignoresCase &&
            (upper === part ||
              (/^\p{L}$/u.test(part) && character !== part && isSameLetter(part, character))));
        if (isSame && part.length > 0 && !part.includes('/'))
          spellings.push(
            [...letters.slice(0, at), character, ...letters.slice(at + length)].join(''),
          );
      }
  }
  return spellings;
}

test.each([
  ['case: lower', true],
  ['case: keep', false],
])('with %s, no spelling of a closed page is another address to the rules', (tidy, ignoresCase) => {
  const site = siteWith(tidy);
  let tried = 0;
  const passed = new Set<string>();
  for (const path of ignoresCase ? CLOSED : CLOSED.filter((one) => !/strasse|maße|οδοσ/.test(one)))
    for (const spelling of [path, ...spellingsOf(path, ignoresCase)]) {
      tried++;
      if (outcomeOf(site, spelling) === 'reach') passed.add(spelling);
    }
  expect([...passed].slice(0, 20)).toEqual([]);
  expect(tried).toBeGreaterThan(3000);
});

test('what is declared is reached in its own letters, and what nothing looks like as well', () => {
  const site = siteWith('case: lower');
  const crew = someone({ roles: ['crew'] });
  for (const path of ['/klassen-straße', '/οδος', '/masse', '/fillet', '/any/team'])
    expect([path, outcomeOf(site, path, crew)]).toEqual([path, 'reach']);
  for (const path of ['/any/straße', '/größe', '/any/παλιός', '/any/می‌روم', '/any/❤️', '/any/ﬁle'])
    expect([path, outcomeOf(site, path)]).toEqual([path, 'reach']);
  expect(outcomeOf(site, '/leßons', crew)).toBe('invalid');
  expect(outcomeOf(site, '/any/ſecret')).toBe('missing');
});

test('letter case is folded as the platform folds it, and as upper case has it', () => {
  const wrong = ODD.filter((character) => {
    const folded = foldCase(character);
    if (foldCase(folded) !== folded) return true;
    return /^.$/u.test(folded)
      ? !isSameLetter(character, folded)
      : folded.toUpperCase() !== character.toUpperCase();
  });
  // Capitals that stay, and the dotless i, which some servers take for the other one.
  expect(wrong).toEqual(['İ', 'ı', 'ẞ']);
});

test('characters that look like an allowed one stay refused', () => {
  const allow = 'allow: [";", "?", "#", ".", " "]';
  const site = siteWith(allow);
  for (const path of [
    '/any/a.',
    '/any/a;b',
    '/any/a%3F',
    '/any/a%23',
    '/any/a%20',
    '/any/a./\uFB01',
  ])
    expect([path, outcomeOf(site, decodeURIComponent(path))]).toEqual([path, 'reach']);
  for (const path of ['．', '․', '‥', '；b', '？', '＃', '\u3000'])
    expect([path, outcomeOf(site, `/any/a${path}`)]).toEqual([path, 'invalid']);
});
