import { queries } from '../src/index.ts';
import { errorsOf, NOW, sampleSite, siteOf } from './support.ts';

const BODY = `roles: { crew: Crew, warden: Warden }
products: { permit: { title: Permit } }
pages:
  /: Home
  /about: About
  /sign-in: Sign in
  /crew: Crew
  /crew/:x: Of the crew
  /permit: Permit
  /later: { title: Later, from: 2027-01-01 }
gates:
  crew: { under: /crew, admit: role crew }
  open: { at: /crew/open, admit: anyone, from: 2027-06-01 }
  permit: { under: /permit, admit: bought permit }
`;

const found = (guarantee: string, more = ''): queries.ListedGuarantee =>
  queries.guaranteeList(siteOf(`${BODY}${more}\nguarantees: [{ ${guarantee} }]\n`), NOW)[0]!;

describe('a guarantee', () => {
  test.each([
    'who: guest, never: reach, under: /crew, until: 2027-06-01',
    'who: not role crew, never: reach, at: /crew',
    'who: anyone, always: reach, at: [/, /about]',
    'who: bought permit, always: reach, under: /permit',
    'who: ever bought permit and not bought permit, never: reach, under: /permit',
    'who: anyone, always: [missing, reach], at: /later',
    'who: anyone, always: reach, at: /later, from: 2027-01-01',
    'who: guest, never: change, under: /crew, until: 2027-06-01',
    'who: anyone, never: [loop, invalid, away]',
  ])('{ %s } is proved', (guarantee) => {
    const { is, message, witness } = found(guarantee);
    expect([is, witness]).toEqual(['proved', null]);
    expect(message).toMatch(/^Proved for every visitor, at \d+ kinds? of addresses/);
  });

  test.each([
    ['who: role crew, never: reach, under: /crew', { roles: ['crew'] }, '/crew', 'reach'],
    // A gate that opens one address next year: it is refuted by whoever comes then.
    ['who: guest, never: reach, under: /crew', { guest: true }, '/crew/open', 'reach'],
    ['who: anyone, always: reach, under: /permit', { guest: true }, '/permit', 'sign-in'],
    [
      'who: ever bought permit, always: reach, under: /permit',
      expect.anything() as object,
      '/permit',
      'block',
    ],
    ['who: anyone, always: reach, at: /later', { guest: true }, '/later', 'missing'],
    ['who: role warden, never: block', { roles: ['warden'] }, '/crew', 'block'],
  ])('{ %s } is refuted by %j at %s: %s', (guarantee, visitor, address, outcome) => {
    const { is, witness } = found(guarantee);
    expect(is).toBe('refuted');
    expect(witness).toMatchObject({ visitor, address, outcome });
  });

  test('is refuted at the earliest moment, by the rule that is responsible', () => {
    const { witness, message } = found('who: guest, never: reach, under: /crew');
    expect(witness).toMatchObject({
      at: '2027-06-01T00:00:00Z',
      rule: { name: 'gate open', line: 15 },
    });
    expect(message).toBe(
      'Broken: /crew/open by a guest, on 2027-06-01T00:00:00Z, ends as reach (200). ' +
        'The gate open on /crew/open admits anyone: Someone (guest) may view.',
    );
  });

  test.each([
    ['rewrites: [{ from: /in/:x, serve: /crew/:x }]', '/crew'],
    ['redirects: [{ from: /in/:x, to: /crew/:x }]', '/crew'],
  ])('is proved against %s', (more) => {
    expect(found('who: guest, never: reach, under: /crew, until: 2027-06-01', more).is).toBe(
      'proved',
    );
  });

  test('is about addresses that no page has, where the website answers for them', () => {
    const body = `pages: { /: Home }
gates: { g: { under: /shut, admit: nobody }, h: { under: /shut/open, admit: 'query.key = "1"' } }
guarantees: [{ never: reach, under: /shut }, { never: reach, under: /shut/deep }]
`;
    const head = 'kleidon: 1\nsite: { name: T, address: https://t.example, undeclared: website }\n';
    const [first, second] = queries.guaranteeList(siteOf(body, head), NOW);
    expect(first).toMatchObject({ is: 'refuted', witness: { address: '/shut/open?key=1' } });
    expect(second!.is).toBe('proved');
  });

  test('is about each old address of another host, whichever redirects it meets further on', () => {
    const body = (redirect: string): string => `pages: { /: Home }
redirects: [{ from: 'https://old.example/*', to: '/b/*', kind: permanent }${redirect}]
guarantees: [{ from: 'https://old.example/*', always: permanent }]
`;
    const more = `, { from: '/:p/a', to: /, kind: permanent, when: signed-in }`;
    expect(queries.guaranteeList(siteOf(body('')), NOW)[0]!.is).toBe('proved');
    expect(queries.guaranteeList(siteOf(body(more)), NOW)[0]).toMatchObject({
      is: 'refuted',
      witness: { address: 'https://old.example/a' },
    });
  });

  test.each(['/free', '/Free', '/free/'])(
    'is about an address that neither page nor rule has: %s',
    (address) => {
      const body = `pages: { /: Home }
guarantees: [{ never: reach, at: ${address} }, { never: change, at: ['/', ${address}] }]
`;
      const head =
        'kleidon: 1\nsite: { name: T, address: https://t.example, undeclared: website, change: gated-only }\n';
      const [reach, change] = queries.guaranteeList(siteOf(body, head), NOW);
      expect(reach).toMatchObject({ is: 'refuted', witness: { address: '/free' } });
      expect(change!.is).toBe('proved');
    },
  );

  test.each([
    ['query.q = "2"', 'refuted'],
    // What a rewrite sets, no visitor can.
    ['query.n = "2"', 'proved'],
  ])('is about any query, where a page that is there by %s is served from another', (when, is) => {
    const body = `pages: { '/a/:x': { title: A, missing-unless: '${when}', example: /a/b } }
rewrites: [{ from: '/a/:x', serve: '/a/b?n=1' }]
guarantees: [{ never: reach, under: /a }]
`;
    expect(queries.guaranteeList(siteOf(body), NOW)[0]!.is).toBe(is);
  });

  test('is settled where a gate stands at the root, and hundreds beneath it', () => {
    const head = 'kleidon: 1\nsite: { name: T, address: https://t.example, undeclared: website }\n';
    const gates = Array.from(
      { length: 300 },
      (_, i) => `  g${i}: { under: /s${i}, admit: role crew }`,
    );
    const body = (guarantee: string): string => `roles: { crew: Crew }
pages: { /: Home, '/s1/:x/edit': Edit }
gates:
  all: { under: /, admit: signed-in }
  public: { under: /s7/public, admit: anyone }
${gates.join('\n')}
guarantees: [{ ${guarantee} }]
`;
    const verdict = (guarantee: string) =>
      queries.guaranteeList(siteOf(body(guarantee), head), NOW)[0]!;
    expect(verdict('who: guest, never: reach, under: /s8').is).toBe('proved');
    expect(verdict('who: guest, never: reach, under: /other').is).toBe('proved');
    expect(verdict('who: guest, never: reach').witness?.address).toMatch(/^\/s7\/public/);
    expect(verdict('who: signed-in and not role crew, never: reach, under: /s9').is).toBe('proved');
    expect(verdict('who: not (signed-in or guest), never: reach').is).toBe('proved');
  });

  test('of old addresses tells those that take too long, and those that nothing redirects', () => {
    const old = (from: string, redirects: string): string => {
      const { is, witness } = found(
        `from: '${from}', always: permanent, hops: 1`,
        `redirects: [${redirects}]`,
      );
      return witness?.address ?? is;
    };
    const host = 'https://old.example';
    expect(old(`${host}/*`, `{ from: '${host}/*', to: /about, kind: permanent }`)).toBe('proved');
    expect(old(`${host}/*`, `{ from: '${host}/*', to: /about }`)).toMatch(
      /^https:\/\/old\.example\//,
    );
    expect(
      old('/news/:x', `{ from: '/news/:x', to: /hop, kind: permanent }, { from: /hop, to: / }`),
    ).toBe('/news/kx3');
    expect(old('/gone', `{ from: /other, to: / }`)).toBe('/gone');
  });

  test('of links looks at what menus, landings and redirects lead to', () => {
    const never = (more: string): string => {
      const { is, witness } = found('never: [missing, loop], links: yes', more);
      return witness?.address ?? is;
    };
    expect(never('menus: { main: { links: [/about] } }')).toBe('proved');
    expect(never('menus: { main: { links: [/gone] } }')).toBe('/gone');
    expect(never('menus: { main: { links: [/gone], shows: usable } }')).toBe('proved');
    expect(never('landings: [{ after: sign-in, who: role crew, go: /gone }]')).toBe('/gone');
    // Nobody comes to the second: all who are signed in land at the first.
    const first = '{ after: sign-in, who: signed-in, go: /about }';
    expect(never(`landings: [{ after: sign-in, who: anyone, go: /gone }, ${first}]`)).toBe(
      'proved',
    );
    expect(never('landings: [{ after: sign-out, who: role crew, go: /gone }]')).toBe('/gone');
    expect(
      never('redirects: [{ from: /a, to: /b }, { from: /b, to: /a, when: bought permit }]'),
    ).toBe('/b');
  });

  test('has the visitor as a witness whom it takes', () => {
    const loop = 'redirects: [{ from: /a, to: /b }, { from: /b, to: /a, when: bought permit }]';
    expect(found('never: loop, links: yes', loop).witness).toMatchObject({
      visitor: { bought: [{ product: 'permit' }] },
      outcome: 'loop',
    });
  });

  test('whose visitor has values is refuted by one who has them', () => {
    const { witness } = found(
      'who: visitor.age >= 18 and visitor.town = "Ayr", never: block, at: /crew',
    );
    expect(witness!.visitor).toMatchObject({ attributes: { age: 18, town: 'Ayr' } });
  });

  test.each([
    ['who: guest, under: /crew', 1, 'says what happens always, or never'],
    ['never: reach, always: reach', 1, 'says what happens always, or never'],
    ['never: rech', 1, 'not "rech"'],
    ['never: []', 1, '"never" is empty'],
    ['never: [change, reach]', 1, 'stand alone'],
    ['never: [reach, block]', 1, 'stand alone'],
    ['always: permanent, under: /crew', 1, 'are for old addresses'],
    ['always: reach, hops: 2', 1, 'are for old addresses'],
    ["from: 'https://old.example/*', never: reach", 1, 'are for old addresses'],
    ['never: loop, links: yes, under: /crew', 1, 'whole by themselves'],
    ['who: query.a = "1", never: reach', 1, 'must not depend on the address'],
    ['who: visitor.a = visitor.b, never: reach', 1, 'must not depend on the address'],
    ['who: signed-in and visitor.a = visitor.b, never: reach', 1, 'must not depend on the address'],
    ['who: asked, never: reach', 1, 'must not depend on the address'],
    ['who: visitor.a = language, never: reach', 1, 'must not depend on the address'],
    ['never: reach, from: soon', 1, 'is not a date'],
  ])('{ %s } is an error', (guarantee, number, message) => {
    const errors = errorsOf(
      `pages: { /: Home }\naudiences: { asked: 'guest or query.a = "1"' }\nguarantees: [{ ${guarantee} }]\n`,
    );
    expect(errors.map((one) => one.message).join(' ')).toContain(message);
    expect(errors.length).toBeGreaterThanOrEqual(number);
  });
});

test('those of the sample site are proved', () => {
  const all = queries.guaranteeList(sampleSite(), NOW);
  expect(all.map(({ is }) => is)).toEqual(Array.from({ length: 5 }, () => 'proved'));
  expect(all[0]!.words).toBe('guests must never reach /crew and all beneath it');
  expect(all[4]!.words).toBe(
    'everyone must always be redirected permanently from /blog/*, once at most',
  );
});
