import { parseCondition } from '../src/condition/parse.ts';
import { printCondition } from '../src/condition/print.ts';
import { Atoms } from '../src/explore/atoms.ts';
import { shortest } from '../src/explore/shortest.ts';
import { queries } from '../src/index.ts';
import { describeCondition } from '../src/wording/condition.ts';
import { NOW, siteOf } from './support.ts';

const names = {
  audiences: new Map([['crew', parseCondition('role a or role b')]]),
  timeZone: 'UTC',
};
const shortened = (text: string, free?: string) => {
  const atoms = new Atoms(names);
  const [set, open] = [text, free ?? 'nobody'].map((one) => atoms.setOf(parseCondition(one), null));
  return shortest(atoms, set!, open);
};
const printed = (text: string, free?: string): string =>
  printCondition(shortened(text, free).condition);
const words = (text: string): string =>
  describeCondition(shortened(text), { product: (name) => name });

describe('the shortest form of a condition', () => {
  test.each([
    ['nobody', 'nobody'],
    ['anyone', 'anyone'],
    ['guest or signed-in', 'anyone'],
    ['crew', 'role a or role b'],
    ['not crew', 'not role a and not role b'],
    ['crew and not crew', 'nobody'],
    ['(role a or role b) and (role c or role d)', '(role a or role b) and (role c or role d)'],
    ['guest and bought x', 'nobody'],
    ['guest and not bought x', 'guest'],
    ['signed-in and role a', 'role a'],
    ['bought x and ever bought x', 'bought x'],
    ['ever bought x or bought x', 'ever bought x'],
    ['role a or (not role a and role b)', 'role a or role b'],
    ['not (role a and group g)', 'not (role a and group g)'],
    ['unknown-audience', 'nobody'],
    ['visitor.town != "Ayr"', 'visitor.town != "Ayr"'],
    [
      'visitor.town != "Ayr" or visitor.town = "Ayr"',
      'visitor.town = "Ayr" or visitor.town != "Ayr"',
    ],
    ['visitor.level > 5 or visitor.level > 3', 'visitor.level > 3'],
    ['visitor.level > 5 and visitor.level < 3', 'nobody'],
    ['person sam and person kim', 'nobody'],
    ['person sam or visitor.id = "sam"', 'person sam'],
    ['person sam and visitor.id != "sam"', 'nobody'],
    ['visitor.id = "sam" and visitor.id < "sal"', 'nobody'],
    ['signed-in and not visitor.id != "sam"', 'person sam'],
  ])('%s: %s', (text, expected) => {
    expect(printed(text)).toBe(expected);
  });

  test('those of whom it does not matter make it shorter', () => {
    expect(printed('role a and not role b')).toBe('role a and not role b');
    expect(printed('role a and not role b', 'role b')).toBe('role a');
  });

  test.each([
    // Each exception is said once.
    [
      '(role v and not role w and not role r) or (role x and not role w and not role r)',
      'anyone with the role v or x, except anyone with the role w or r',
    ],
    [
      'not (role a and group g)',
      'everyone, except anyone who has the role a and is in the group g',
    ],
    [
      'role a and not bought x and not group g',
      'anyone with the role a, except buyers of x while it is in force, except anyone in the group g',
    ],
    ['guest or role a', 'anyone with the role a; and guests'],
  ])('%s, in words', (text, expected) => {
    expect(words(text)).toBe(expected);
  });

  test('hundreds of people by name, or of values, are no more cases than one', () => {
    const people = Array.from({ length: 300 }, (_, i) => `person p${i}`).join(' or ');
    expect(words(people)).toMatch(/^the person p0, p1, p2, .* or p299$/);
    const towns = Array.from({ length: 300 }, (_, i) => `visitor.town = "t${i}"`).join(' or ');
    expect(printed(towns)).toBe(towns);
    expect(printed(`not (${people}) and (${people})`)).toBe('nobody');
  });

  test('one with too many alternatives to read is said as a condition, and in its shorter form', () => {
    const pairs = Array.from({ length: 12 }, (_, i) => `(role x${i} or group y${i})`).join(' and ');
    const roles = Array.from({ length: 12 }, (_, i) => `x${i}: x`).join(', ');
    const site = siteOf(
      `roles: { ${roles} }\ngroups: { ${roles.replaceAll('x', 'y')} }\npages: { /p: P }\ngates: { g: { at: /p, admit: "${pairs}" } }`,
    );
    const said = queries.whoReaches(site, '/p', NOW)!;
    expect(said.words).toBe(`anyone for whom ${said.condition}`);
    expect(said.condition.length).toBeLessThan(pairs.length * 2);
  });
});
