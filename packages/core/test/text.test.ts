import { inWords } from '../src/text/list.ts';
import { didYouMean } from '../src/wording/suggestion.ts';
import { nearest } from '../src/text/nearest.ts';

describe('the nearest known name', () => {
  test.each([
    ['volunter', 'volunteer'],
    ['wradne', 'warden'],
    ['WARDEN', 'warden'],
    ['ringre', 'ringer'],
    ['administrator-', 'administrator'],
    ['queen', null],
    ['', null],
  ])('of %j is %j', (name, expected) => {
    expect(nearest(name, ['volunteer', 'warden', 'ringer', 'administrator'])).toBe(expected);
  });

  test('is offered, and otherwise what there is', () => {
    expect(didYouMean('wardn', ['warden'])).toBe('Did you mean "warden"?');
    expect(didYouMean('x', [])).toBe('None are defined yet.');
    expect(didYouMean('xyz', ['warden', 'ringer'])).toBe('Known: warden, ringer.');
    expect(
      didYouMean(
        'xyz',
        Array.from({ length: 20 }, (_, i) => `role-number-${i}`),
      ),
    ).toMatch(/role-number-11, …\.$/);
  });
});

test.each([
  [[], ''],
  [['a'], 'a'],
  [['a', 'b'], 'a or b'],
  [['a', 'b', 'c'], 'a, b or c'],
])('%j in words is %j', (items, words) => {
  expect(inWords(items, 'or')).toBe(words);
});
