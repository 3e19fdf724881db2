import fc from 'fast-check';
import type { Condition, Value } from '../src/model/condition.ts';
import { evaluate } from '../src/condition/evaluate.ts';
import { parseCondition } from '../src/condition/parse.ts';
import { printCondition } from '../src/condition/print.ts';
import { ConditionSyntaxError } from '../src/condition/condition-syntax-error.ts';
import { describeConditionProblem } from '../src/wording/condition-problem.ts';
import type { model } from '../src/index.ts';
import { GUEST, NOW, someone } from './support.ts';

const audiences = new Map([['crew', parseCondition('role volunteer or role warden')]]);
const day = (text: string): number => Date.parse(text);

function holds(text: string, visitor: model.Visitor, path = {}, query = ''): boolean {
  return evaluate(
    parseCondition(text),
    { visitor, at: NOW, path, query },
    { audiences, timeZone: 'UTC' },
  );
}

describe('conditions', () => {
  test.each([
    ['anyone', true, true],
    ['nobody', false, false],
    ['guest', true, false],
    ['signed-in', false, true],
    ['role warden', false, true],
    ['role member', false, false],
    ['group count', false, true],
    ['person sam', false, true],
    ['crew', false, true],
    ['not crew', true, false],
    ['guest or role warden', true, true],
    ['signed-in and not role warden', false, false],
    ['not (guest or crew)', false, false],
  ])('%s: a guest %s, a warden %s', (text, guest, warden) => {
    expect(holds(text, GUEST)).toBe(guest);
    expect(holds(text, someone({ roles: ['warden'], groups: ['count'] }))).toBe(warden);
  });

  test('and binds before or', () => {
    expect(holds('guest or signed-in and role member', GUEST)).toBe(true);
    expect(holds('(guest or signed-in) and role member', GUEST)).toBe(false);
  });

  test('a guest has no roles even where the data says so', () => {
    expect(holds('role warden', { ...GUEST, roles: ['warden'] })).toBe(false);
  });

  test.each([
    ['in force', { from: day('2026-01-01'), until: day('2027-01-01') }, 'bought'],
    ['not begun', { from: day('2026-12-01'), until: null }, ''],
    ['run out', { from: null, until: day('2026-11-23T12:00:00Z') }, 'lapsed'],
    ['open at both ends', { from: null, until: null }, 'bought'],
    ['refunded', { refunded: true }, 'refunded'],
    ['paused', { paused: true }, 'paused'],
  ])('a purchase that is %s', (_, purchase, state) => {
    const bought = [
      { product: 'permit', from: null, until: null, refunded: false, paused: false, ...purchase },
    ];
    for (const one of ['bought', 'lapsed', 'paused', 'refunded'])
      expect([one, holds(`${one} permit`, someone({ bought }))]).toEqual([one, one === state]);
    expect(holds('ever bought permit', someone({ bought }))).toBe(true);
    expect(holds('bought guide', someone({ bought }))).toBe(false);
  });

  test.each([
    ['path.lesson >= 1 and path.lesson <= 12', { lesson: '12' }, true],
    ['path.lesson >= 1 and path.lesson <= 12', { lesson: '13' }, false],
    ['path.lesson >= 1', { lesson: 'one' }, false],
    ['path.lesson >= 1', { lesson: '0x1' }, false],
    ['path.lesson = 1', {}, false],
    ['path.lesson != 1', {}, false],
    ['path.day < 2026-12-01', { day: '2026-11-30' }, true],
    ['path.slug in ["a", "b"]', { slug: 'b' }, true],
    ['path.slug in ["a", "b"]', { slug: 'c' }, false],
  ])('%s with %j is %s', (text, path, expected) => {
    expect(holds(text, GUEST, path)).toBe(expected);
  });

  test('attributes, the query and the language', () => {
    const visitor = someone({ attributes: { age: 17, towns: ['Ayr', 'Oban'] }, language: 'gd' });
    expect(holds('visitor.age < 18', visitor)).toBe(true);
    expect(holds('visitor.towns = "Oban"', visitor)).toBe(true);
    expect(holds('"Oban" in visitor.towns', visitor)).toBe(true);
    expect(holds('visitor.constructor = "x"', visitor)).toBe(false);
    expect(holds('language in ["gd", "en"]', visitor)).toBe(true);
    expect(holds('query.ref = "mail"', visitor, {}, 'ref=mail')).toBe(true);
    expect(holds('visitor.id = path.person', visitor, { person: 'sam' })).toBe(true);
  });

  test.each([
    ['role', 4, '"role" wants a name after it.', 'Write "role NAME".'],
    ['role a role b', 7, 'The condition ends before "role".', 'Join the two with "and" or "or".'],
    ['crew && guest', 5, 'A condition has no place for "&".', 'Write "and".'],
    ['(guest', 0, 'A parenthesis is not closed.', 'Add ")".'],
    ['guest or', 8, 'The condition stops too early.', 'Write anyone, guest'],
    ['path.x = robin', 9, '"robin" is not a value.', 'Put text in quotes: "robin".'],
    ['visitr.id = 3', 0, '"visitr.id" is not a value.', 'Did you mean "visitor.id"?'],
    ['path.x in 3', 7, '"in" wants a list on its right.', 'Write [a, b] in brackets.'],
    ['path.x = "a', 9, 'A quoted text is not closed.', 'End it with ".'],
    ['ever role x', 5, '"ever" stands before "bought".', 'Write "ever bought PRODUCT".'],
  ])('%s is refused at %i', (text, offset, message, remedy) => {
    let problem: unknown;
    try {
      parseCondition(text);
    } catch (error) {
      problem = error;
    }
    expect(problem).toBeInstanceOf(ConditionSyntaxError);
    expect(problem).toMatchObject({ offset });
    const said = describeConditionProblem((problem as ConditionSyntaxError).problem);
    expect(said).toEqual({ message, remedy: expect.stringContaining(remedy) as string });
  });

  test('nesting is bounded, so that no text can exhaust the stack', () => {
    expect(() => parseCondition('not '.repeat(50_000) + 'guest')).toThrow(ConditionSyntaxError);
    expect(() => parseCondition('('.repeat(50_000))).toThrow(ConditionSyntaxError);
  });

  test('printing and parsing again gives the same condition', () => {
    fc.assert(
      fc.property(anyCondition, (condition) => {
        const printed = printCondition(condition);
        expect(printCondition(parseCondition(printed))).toBe(printCondition(flatten(condition)));
        expect(parseCondition(printed)).toEqual(flatten(condition));
      }),
      { numRuns: 500 },
    );
  });
});

const name = fc.oneof(
  fc.stringMatching(/^[a-z][a-z0-9-]{0,6}$/),
  fc.constantFrom('or', 'in', 'two words', 'quo"te', 'Käfer', '12'),
);
const pieceName = fc.stringMatching(/^[a-z][a-z0-9-]{0,5}$/);
const value: fc.Arbitrary<Value> = fc.oneof(
  fc.record({
    is: fc.constantFrom('visitor', 'path', 'query'),
    name: pieceName,
  }) as fc.Arbitrary<Value>,
  fc.constant<Value>({ is: 'language' }),
  fc.string().map((text): Value => ({ is: 'string', value: text })),
  fc.integer({ min: -99, max: 99 }).map((number): Value => ({ is: 'number', value: number })),
  fc.constant<Value>({ is: 'date', text: '2027-03-01' }),
);
const atom: fc.Arbitrary<Condition> = fc.oneof(
  fc.constantFrom<Condition>(
    { is: 'anyone' },
    { is: 'nobody' },
    { is: 'guest' },
    { is: 'signed-in' },
  ),
  fc.record({ is: fc.constantFrom('role', 'group', 'person'), name }) as fc.Arbitrary<Condition>,
  fc.record({
    is: fc.constant('bought'),
    product: name,
    state: fc.constantFrom('in-force', 'ever', 'lapsed', 'paused', 'refunded'),
  }) as fc.Arbitrary<Condition>,
  fc.constantFrom<Condition>(
    { is: 'audience', name: 'crew' },
    { is: 'audience', name: 'permit-holders' },
  ),
  fc.record({
    is: fc.constant('compare'),
    left: value,
    operator: fc.constantFrom('=', '!=', '<', '<=', '>', '>='),
    right: value,
  }) as fc.Arbitrary<Condition>,
);
const anyCondition = fc.letrec<{ condition: Condition }>((tie) => ({
  condition: fc.oneof(
    { depthSize: 'small' },
    atom,
    tie('condition').map((of): Condition => ({ is: 'not', of })),
    fc
      .tuple(
        fc.constantFrom('and', 'or'),
        fc.array(tie('condition'), { minLength: 2, maxLength: 3 }),
      )
      .map(([is, of]): Condition => ({ is: is as 'and', of })),
  ),
})).condition;

/** `a and (b and c)` is `a and b and c`. */
function flatten(condition: Condition): Condition {
  if (condition.is === 'not') return { is: 'not', of: flatten(condition.of) };
  if (condition.is !== 'and' && condition.is !== 'or') return condition;
  const of = condition.of
    .map(flatten)
    .flatMap((one) => (one.is === condition.is ? (one as { of: readonly Condition[] }).of : [one]));
  return { is: condition.is, of };
}
