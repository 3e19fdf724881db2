import fc from 'fast-check';
import { parseCondition } from '../src/condition/parse.ts';
import { evaluate } from '../src/condition/evaluate.ts';
import { decisions, type model, queries } from '../src/index.ts';
import { GUEST, NOW, sampleSite, siteOf, someone } from './support.ts';

const words = (site: decisions.PreparedSite, address: string): string =>
  queries.whoReaches(site, address, NOW)!.words;

const HEAD = `kleidon: 1
site: { name: W, address: https://w.example, sign-in: /sign-in, full-access: role admin }
roles: { a: x, b: x, c: x, admin: x }
groups: { g: x }
products: { permit: { title: Hide permit }, guide: { title: Field guide } }
audiences: { crew: role a or role b }
`;
const gated = (admit: string, more = ''): decisions.PreparedSite =>
  siteOf(
    `pages: { /p: P }\ngates: { g: { at: /p, admit: ${JSON.stringify(admit)} } }\n${more}`,
    HEAD,
  );

describe('who reaches a page, in words', () => {
  test.each([
    ['anyone', 'everyone'],
    ['nobody', 'nobody'],
    ['guest', 'guests'],
    ['signed-in', 'anyone signed in'],
    ['guest or signed-in', 'everyone'],
    ['crew', 'anyone with the role a or b'],
    ['role a or role b or role c', 'anyone with the role a, b or c'],
    ['role a and signed-in', 'anyone with the role a'],
    ['role a and guest', 'nobody'],
    ['role a or (role a and role b)', 'anyone with the role a'],
    ['not role a', 'everyone, except anyone with the role a'],
    ['signed-in and not role a', 'anyone signed in, except anyone with the role a'],
    [
      'role a or bought permit',
      'anyone with the role a; and buyers of Hide permit while it is in force',
    ],
    ['bought permit or bought guide', 'buyers of Hide permit or Field guide while it is in force'],
    ['ever bought guide and group g', 'anyone who ever bought Field guide and is in the group g'],
    ['person sam or guest', 'the person sam; and guests'],
    ['visitor.age >= 18', 'anyone for whom visitor.age >= 18'],
    ['(role a and role b) or (role a and not role b)', 'anyone with the role a'],
  ])('%s: %s', (admit, expected) => {
    expect(words(gated(admit), '/p')).toBe(expected);
  });

  test('full access is told apart, and so is why nobody does at the moment', () => {
    const site = siteOf(
      'pages: { /soon: { from: 2027-01-01 }, /moved: Moved, /d: { draft: yes } }\nredirects: [{ from: /moved, to: /soon }]',
      HEAD,
    );
    expect(queries.whoReaches(site, '/soon', NOW)).toMatchObject({
      words: 'nobody',
      closed: 'It opens on 2027-01-01.',
      byFullAccess: null,
    });
    expect(queries.whoReaches(site, '/moved', NOW)).toMatchObject({
      words: 'nobody',
      closed: 'A redirect sends everyone to /soon.',
    });
    expect(queries.whoReaches(site, '/d', NOW)).toMatchObject({
      words: 'nobody',
      closed: null,
      byFullAccess: 'anyone with the role admin',
    });
    expect(queries.whoReaches(site, '/none', NOW)).toBeNull();
  });

  test('a redirect for some takes them out', () => {
    expect(words(gated('signed-in', 'redirects: [{ from: /p, to: /, when: role a }]'), '/p')).toBe(
      'anyone signed in, except anyone with the role a',
    );
  });

  test('the pieces of one address are known', () => {
    const site = siteOf(
      'pages: { /my/sam: Mine, /my/:who: Theirs }\ngates: { own: { under: /my/:person, admit: visitor.id = path.person } }',
      HEAD,
    );
    expect(queries.whoReaches(site, '/my/sam', NOW)!.condition).toBe('person sam');
    expect(queries.whoReaches(site, '/my/:who', NOW)!.condition).toBe('visitor.id = path.who');
  });

  test('the right to change is asked apart', () => {
    const site = siteOf(
      'pages: { /p: P, /q: Q }\ngates: { v: { under: /, admit: role a }, c: { at: /p, right: change, admit: role b } }',
      HEAD,
    );
    expect(queries.whoReaches(site, '/p', NOW, 'change')!.words).toBe('anyone with the role b');
    expect(queries.whoReaches(site, '/q', NOW, 'change')!.words).toBe('anyone with the role a');
  });
});

/** Reads the words back, by their own grammar and without the code that wrote them. */
function conditionFrom(text: string): string {
  if (text === 'everyone') return 'anyone';
  if (text === 'nobody') return 'nobody';
  const [base, ...excepted] = text.split(', except ');
  // Alternatives may have exceptions of their own; what is excepted from everyone may be several things.
  if (base === 'everyone' && !text.includes('; '))
    return excepted.map((one) => `not (${thoseFrom(one)})`).join(' and ');
  return text
    .split(/; (?:and )?/)
    .map((clause) => {
      const [head, ...exceptions] = clause.split(', except ');
      const without = exceptions.map((one) => `not (${thoseFrom(one)})`);
      return `(${[`(${thoseFrom(head!)})`, ...without].join(' and ')})`;
    })
    .join(' or ');
}

/** One sort of people: “anyone who has the role a and is in the group g”. */
function thoseFrom(text: string): string {
  if (text === 'everyone') return 'anyone';
  const list = (names: string, before: string): string =>
    `(${names
      .split(/, | or /)
      .map((name) => `${before} ${PRODUCTS[name] ?? name}`)
      .join(' or ')})`;
  const alone: [RegExp, (names: string) => string][] = [
    [/^guests$/, () => 'guest'],
    [/^anyone signed in$/, () => 'signed-in'],
    [/^anyone with the role (.+)$/, (names) => list(names, 'role')],
    [/^anyone in the group (.+)$/, (names) => list(names, 'group')],
    [/^the person (.+)$/, (names) => list(names, 'person')],
    [/^buyers of (.+) while it is in force$/, (names) => list(names, 'bought')],
    [/^anyone for whom (.+)$/, (condition) => condition],
  ];
  const among: [RegExp, (names: string) => string][] = [
    [/^is a guest$/, () => 'guest'],
    [/^is signed in$/, () => 'signed-in'],
    [/^has the role (.+)$/, (names) => list(names, 'role')],
    [/^is in the group (.+)$/, (names) => list(names, 'group')],
    [/^has (.+) in force$/, (names) => list(names, 'bought')],
    [/^ever bought (.+)$/, (names) => list(names, 'ever bought')],
    [/^fits (.+)$/, (condition) => condition],
    [/^is (.+)$/, (names) => list(names, 'person')],
  ];
  const read = (one: string, forms: typeof alone): string => {
    for (const [form, make] of forms) {
      const match = form.exec(one);
      if (match) return make(match[1] ?? '');
    }
    throw new Error(`These words mean nothing: ${one}`);
  };
  return text.startsWith('anyone who ')
    ? text
        .slice('anyone who '.length)
        .split(' and ')
        .map((one) => read(one, among))
        .join(' and ')
    : read(text, alone);
}
const PRODUCTS: Record<string, string> = { 'Hide permit': 'permit', 'Field guide': 'guide' };

describe('the words are exact', () => {
  const atom = fc.constantFrom(
    'role a',
    'role b',
    'role c',
    'group g',
    'person sam',
    'bought permit',
    'ever bought permit',
    'bought guide',
    'guest',
    'signed-in',
    'crew',
    'visitor.age >= 18',
    'anyone',
    'nobody',
  );
  const { condition } = fc.letrec<{ condition: string }>((tie) => ({
    condition: fc.oneof(
      { depthSize: 'small' },
      atom,
      tie('condition').map((one) => `not (${one})`),
      fc
        .tuple(tie('condition'), fc.constantFrom('and', 'or'), tie('condition'))
        .map(([x, word, y]) => `(${x}) ${word} (${y})`),
    ),
  }));

  /** Every combination of what the conditions can ask about. */
  const everyone: model.Visitor[] = [GUEST];
  for (let bits = 0; bits < 128; bits++) {
    const has = (bit: number): boolean => (bits & (1 << bit)) !== 0;
    const until = has(5) ? null : 1;
    everyone.push(
      someone({
        id: has(4) ? 'sam' : 'kim',
        roles: ['a', 'b', 'c'].filter((_, i) => has(i)),
        groups: has(3) ? ['g'] : [],
        bought: has(6)
          ? [{ product: 'permit', from: null, until, refunded: false, paused: false }]
          : [],
        attributes: { age: has(0) ? 20 : 10 },
      }),
      someone({
        roles: ['a', 'b', 'c'].filter((_, i) => has(i)),
        bought: has(6)
          ? [{ product: 'guide', from: null, until, refunded: false, paused: false }]
          : [],
      }),
    );
  }

  test('on random sites they agree with the decision, read back, for every combination', () => {
    fc.assert(
      fc.property(
        condition,
        fc.option(condition),
        fc.option(condition),
        fc.option(condition),
        fc.boolean(),
        (admit, above, when, served, narrows) => {
          const site = siteOf(
            `pages: { /s/p: P, /t: T }
gates:
  served: { at: /t, admit: ${JSON.stringify(when ?? admit)} }
  near: { at: /s/p, admit: ${JSON.stringify(admit)}, narrows: ${narrows ? 'yes' : 'no'} }
  above: { under: /s, admit: ${JSON.stringify(above ?? 'anyone')} }
redirects: [{ from: /s/p, to: /, when: ${JSON.stringify(when ?? 'nobody')} }]
rewrites: [{ from: /s/p, serve: /t, when: ${JSON.stringify(served ?? 'nobody')} }]`,
            HEAD,
          );
          const said = queries.whoReaches(site, '/s/p', NOW)!;
          const readBack = parseCondition(conditionFrom(said.words));
          const asCondition = parseCondition(said.condition);
          const request = { method: 'GET', address: '/s/p' };
          const wrong = everyone.filter((visitor) => {
            const { outcome } = decisions.decide(site, request, visitor, NOW);
            const situation = { visitor, at: NOW, path: {}, query: '' };
            return [readBack, asCondition].some(
              (one) => evaluate(one, situation, site.names) !== (outcome === 'reach'),
            );
          });
          expect(wrong).toEqual([]);
        },
      ),
      { numRuns: 300 },
    );
  });
});

test('what a visitor reaches, and where everything else leaves them', () => {
  const sample = sampleSite();
  const lars = queries.reachedBy(
    sample,
    sample.site.visitors.find(({ name }) => name === 'lars')!,
    NOW,
  );
  expect(lars.reached.map(({ address }) => address)).toContain('/shop');
  expect(lars.others.find(({ address }) => address === '/permit')).toMatchObject({
    outcome: 'block',
    final: '/shop/hide-permit?return=%2Fpermit',
  });
  expect(new Set([...lars.reached, ...lars.others].map(({ address }) => address)).size).toBe(
    sample.site.pages.length,
  );
});

test('a visitor may reach some addresses of a page and not others', () => {
  const site = siteOf(`roles: { r: R }
pages: { "/a/:x": { title: A, example: /a/one } }
gates: { b: { under: /a/b, admit: role r }, c: { at: /a/c, admit: nobody } }
redirects: [{ from: '/a/d-:n(\\d+)', to: 'https://far.example/' }]`);
  const { reached, others } = queries.reachedBy(site, someone({ roles: ['r'] }), NOW);
  const told = (pages: readonly queries.ReachedPage[]) =>
    pages.map(({ example, within, outcome }) => [example, within, outcome]);
  expect(told(reached)).toEqual([['/a/one', [], 'reach']]);
  expect(told(others)).toEqual([
    [expect.stringMatching(/^\/a\/d-\d+$/), ['/a/d-:n(\\d+)'], 'away'],
    ['/a/c', ['/a/c'], 'block'],
  ]);
  const own = siteOf(`pages: { '/my/:who': { title: M, missing-unless: path.who = visitor.id } }`);
  const sam = queries.reachedBy(own, someone({ id: 'sam' }), NOW);
  expect([...sam.reached, ...sam.others]).toMatchObject([
    { outcome: 'reach', where: 'path.who = visitor.id' },
    { outcome: 'missing', where: 'not path.who = visitor.id' },
  ]);
});
