import { clausesOf } from '../src/condition/clauses.ts';
import { parseCondition } from '../src/condition/parse.ts';
import { queries } from '../src/index.ts';
import { findExcluded } from '../src/reach/find-excluded.ts';
import { describeCondition } from '../src/wording/condition.ts';
import { NOW, siteOf } from './support.ts';

const names = { audiences: new Map([['crew', parseCondition('role a or role b')]]) };
const size = (text: string): number | undefined => clausesOf(parseCondition(text), names)?.length;

describe('conditions taken apart', () => {
  test.each([
    ['nobody', 0],
    ['anyone', 1],
    ['crew', 2],
    ['not crew', 1],
    ['crew and not crew', 0],
    ['(role a or role b) and (role c or role d)', 4],
    ['guest and bought x', 0],
    ['guest and not bought x', 1],
    ['unknown-audience', 0],
  ])('%s has %i alternatives', (text, expected) => {
    expect(size(text)).toBe(expected);
  });

  test('one with too many alternatives is left as it is, and said as a condition', () => {
    const pairs = Array.from({ length: 12 }, (_, i) => `(role x${i} or role y${i})`).join(' and ');
    expect(size(pairs)).toBeUndefined();
    const roles = Array.from({ length: 12 }, (_, i) => `x${i}: x, y${i}: y`).join(', ');
    const site = siteOf(
      `roles: { ${roles} }\npages: { /p: P }\ngates: { g: { at: /p, admit: "${pairs}" } }`,
    );
    expect(queries.whoReaches(site, '/p', NOW)!.words).toBe(`anyone for whom ${pairs}`);
  });
});

describe('who is left out', () => {
  const site = siteOf(
    'roles: { a: x, b: x, admin: x }',
    'kleidon: 1\nsite: { name: L, address: https://l.example, full-access: role admin }\n',
  );
  const left = (among: string, notAmong: string) => {
    const who = findExcluded(site, parseCondition(among), parseCondition(notAmong));
    return who && (who === 'everyone' ? who : describeCondition(who, { product: (name) => name }));
  };

  test.each([
    ['role a', 'signed-in', null],
    ['signed-in', 'role a', 'anyone signed in, except anyone with the role a'],
    ['role a or role b', 'role b', 'anyone with the role a, except anyone with the role b'],
    ['role admin', 'nobody', null],
    ['role admin or guest', 'nobody', 'anyone with the role admin; and guests'],
  ])('among %s and not among %s', (among, notAmong, expected) => {
    expect(left(among, notAmong)).toBe(expected);
  });
});
