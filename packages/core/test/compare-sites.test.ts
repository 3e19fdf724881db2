import { queries } from '../src/index.ts';
import { NOW, siteOf } from './support.ts';

const HEAD = `kleidon: 1
site: { name: C, address: https://c.example, sign-in: /in, time-zone: Europe/London }
roles: { r: R, s: S }
products: { m: { title: Map, buy-at: /shop } }
`;
const site = (body: string) => siteOf(body, HEAD);
const compare = (before: string, after: string, at = NOW) =>
  queries.compareSites(site(before), site(after), at);

/** Each difference in short: where it is, for whom, and what happens before and after. */
const told = ({ differences }: queries.Comparison): string[] =>
  differences.map(
    ({ kind, about, right, is, words, before, after, from }) =>
      `${kind} ${about}${right === 'change' ? ' (change)' : ''} ${is}: ${words}${before && after ? `, ${before.outcome} → ${after.outcome}` : ''}${from === null ? '' : `, from ${from}`}`,
  );
const causes = ({ changes, differences }: queries.Comparison): string[] =>
  differences.map(
    ({ about, causes: all }) => `${about}: ${all.map((i) => changes[i]!.rule).join(' + ')}`,
  );

const PAGES = 'pages: { /: Home, /in: In, /a: A, /shop: Shop }\n';
const gate = (admit: string, more = ''): string =>
  `gates: { g: { at: /a, admit: ${admit}${more} } }\n`;

describe('two states of a site', () => {
  test('that say the same differ in nothing', () => {
    const same = compare(`${PAGES}${gate('role r')}`, `# moved\n${gate('role r')}${PAGES}`);
    expect([same.changes, same.differences]).toEqual([[], []]);
  });

  test('differ for whom a gate admits, and with what they met and meet', () => {
    const compared = compare(PAGES + gate('role r'), PAGES + gate('role r or bought m'));
    expect(told(compared)).toEqual([
      'page /a gains: buyers of Map while it is in force, except anyone with the role r, block → reach',
    ]);
    expect(compared.differences[0]).toMatchObject({
      witness: { visitor: { bought: [{ product: 'm' }] }, method: 'GET', address: '/a' },
      condition: 'bought m and not role r',
    });
    expect(compared.changes).toMatchObject([
      {
        rule: 'gate g',
        is: 'changed',
        differences: 1,
        summary: [expect.stringMatching(/^\+1 page for/)],
      },
    ]);
  });

  test('tell of changing a page apart from viewing it', () => {
    const right = 'gates: { g: { at: /a, right: change, admit: ROLE } }\n';
    const [before, after] = ['role r', 'role s'].map((role) => PAGES + right.replace('ROLE', role));
    expect(told(compare(before!, after!))).toEqual([
      'page /a (change) loses: anyone with the role r, except anyone with the role s, reach → block',
      'page /a (change) gains: anyone with the role s, except anyone with the role r, block → reach',
    ]);
  });

  test('are compared across dates to come', () => {
    const before = PAGES + gate('role r', ', until: 2027-01-01');
    const after = PAGES + gate('role r', ', until: 2027-02-01');
    const compared = compare(before, after);
    expect(told(compared)).toEqual(
      [
        'page /a loses: guests, reach → sign-in, from 2027-01-01T00:00:00Z',
        'page /a loses: anyone signed in, except anyone with the role r, reach → block, from 2027-01-01T00:00:00Z',
        'search-engines /a loses: search engines',
      ].slice(0, 2),
    );
    expect(compared.stretches).toBe(3);
  });

  test('tell once of an address, and which redirects and other addresses take people there', () => {
    const more = `redirects: [{ from: /old, to: /a }, { from: '/x/*', to: /a }]\n`;
    const pages = PAGES.replace('/a: A', '/a: { title: A, aliases: [/b] }');
    const compared = compare(pages + more, pages + more + gate('nobody'));
    const [guests] = compared.differences;
    expect(guests).toMatchObject({ about: '/a', through: ['/b', '/old', '/x/*'] });
    expect(new Set(compared.differences.map(({ about }) => about))).toEqual(new Set(['/a']));
  });

  test('tell where an old address ends now', () => {
    const redirects = (to: string): string => `redirects: [{ from: /old, to: ${to} }]\n`;
    expect(told(compare(PAGES + redirects('/a'), PAGES + redirects('/shop')))).toEqual([
      'redirect /old otherwise: everyone, reach → reach',
    ]);
    expect(told(compare(PAGES + redirects('/a'), PAGES))).toEqual([
      'redirect /old loses: everyone, reach → missing',
    ]);
  });

  test('tell of addresses without a page where a gate of the whole site is gone', () => {
    const gates =
      'gates: { all: { under: /, right: change, admit: role r }, p: { at: /:p, right: change, admit: role r } }\n';
    const found = told(compare(PAGES + gates, PAGES)).filter((one) => one.startsWith('undeclared'));
    expect([...new Set(found)]).toEqual([
      'undeclared /* (change) otherwise: guests, sign-in → missing',
      'undeclared /* (change) otherwise: anyone signed in, except anyone with the role r, block → missing',
      'undeclared /:p (change) otherwise: guests, sign-in → missing',
      'undeclared /:p (change) otherwise: anyone signed in, except anyone with the role r, block → missing',
    ]);
  });

  test('tell of what is said where nothing is found', () => {
    const say = (text: string): string => `not-found: [{ under: /a, say: ${text} }]\n`;
    const compared = compare(PAGES + say('Gone'), PAGES + say('Moved'));
    expect(told(compared)).toEqual(['undeclared /a/* otherwise: everyone, missing → missing']);
    expect(causes(compared)).toEqual(['/a/*: not-found rule /a']);
  });

  test('tell of landings, parts, menus and search engines', () => {
    const before = `${PAGES}landings: [{ after: sign-in, who: role r, go: /a }]
parts: { news: { admit: role r } }
menus: { main: { links: [/a], shows: usable } }
`;
    const after = `${PAGES.replace('/a: A', '/a: { title: A, listed: no }')}landings: [{ after: sign-in, who: role r, go: /shop }]
parts: { news: { admit: role s } }
menus: { main: { links: [/a, /shop], shows: usable } }
`;
    expect(told(compare(before, after))).toEqual([
      'landing after sign-in otherwise: anyone with the role r, reach → reach',
      'part news gains: anyone with the role s, except anyone with the role r',
      'part news loses: anyone with the role r, except anyone with the role s',
      'menu-link main: /shop gains: everyone',
      'search-engines /a loses: search engines',
    ]);
  });

  test('leave out entries that say the same, also where another one gets their name', () => {
    const landings = (go: string): string =>
      `${PAGES}landings: [{ after: sign-in, who: role r, go: ${go} }, { after: sign-in, go: /a }]\n`;
    const { changes } = compare(landings('/shop'), landings('/a'));
    expect(changes.map(({ name, is }) => `${is} ${name}`)).toEqual([
      'removed after sign-in, to /shop',
      'added after sign-in, to /a',
    ]);
  });

  test('name the audience that is the cause, and the setting', () => {
    const named = (who: string): string => `audiences: { crew: ${who} }\n${PAGES}${gate('crew')}`;
    expect(causes(compare(named('role r'), named('role s')))).toEqual([
      '/a: audience crew',
      '/a: audience crew',
    ]);
    const closed = siteOf(PAGES, HEAD.replace('sign-in: /in', 'ungated: closed, sign-in: /in'));
    const compared = queries.compareSites(site(PAGES), closed, NOW);
    expect(new Set(causes(compared).map((one) => one.replace(/^.*: /, '')))).toEqual(
      new Set(['setting ungated']),
    );
  });

  test.each([
    ['{ from: /o, to: /a }', '{ from: /o, to: /shop }', 'end', '/a', '/shop'],
    [
      '{ from: /o, to: /b }, { from: /b, to: /a }',
      '{ from: /o, to: /a }, { from: /b, to: /a }',
      'way',
      '/o → /b → /a',
      '/o → /a',
    ],
    [
      '{ from: /o, to: /a, kind: permanent }',
      '{ from: /o, to: /a }',
      'status',
      '301, 200',
      '302, 200',
    ],
    [
      '{ from: /o, to: /a, wait: 3s }',
      '{ from: /o, to: /a, wait: 4s }',
      'wait',
      '3; url=/a',
      '4; url=/a',
    ],
    [
      '{ from: /o, to: /a, kind: permanent, keep-for: 1h }',
      '{ from: /o, to: /a, kind: permanent, keep-for: 2h }',
      'caching',
      'public, max-age=3600',
      'public, max-age=7200',
    ],
  ])('tell in what visits differ that end alike: %s, %s', (was, is, what, before, after) => {
    const compared = compare(`${PAGES}redirects: [${was}]\n`, `${PAGES}redirects: [${is}]\n`);
    const { how } = compared.differences.find(({ about }) => about === '/o')!;
    expect(how).toEqual({ what, before, after });
  });

  test('tell of changing a page from now on, where viewing it follows later', () => {
    const gates = (right: string): string =>
      `gates: { g: { at: /a, ${right}admit: role r }, h: { at: /a, admit: role r, from: 2027-01-01 } }\n`;
    const compared = compare(PAGES, PAGES + gates('right: change, '));
    expect(told(compared).filter((one) => one.includes('→ block'))).toEqual([
      'page /a loses: anyone signed in, except anyone with the role r, reach → block, from 2027-01-01T00:00:00Z',
      'page /a (change) loses: anyone signed in, except anyone with the role r, reach → block',
    ]);
  });

  test('a gate that hides one page leaves the redirects of other addresses as they are', () => {
    const old = 'redirects: [{ from: /old, to: /shop, kind: permanent, unless-page: yes }]\n';
    const hiding = gate('role r', ', otherwise: [{ who: anyone, do: hide }]');
    const { differences } = compare(`${PAGES}${old}${gate('role r')}`, `${PAGES}${old}${hiding}`);
    expect(differences.filter(({ kind }) => kind === 'redirect')).toEqual([]);
  });

  test('list changes that change nothing for anyone', () => {
    const compared = compare(
      PAGES + gate('role r'),
      `${PAGES.replace('A,', 'Another,')}gates: { g: { at: /a, admit: role r and role r }, h: { at: /b, admit: anyone } }\n`,
    );
    expect(compared.differences).toEqual([]);
    expect(compared.changes.map(({ rule, is, differences }) => [rule, is, differences])).toEqual([
      ['page /a', 'changed', 0],
      ['gate g', 'changed', 0],
      ['gate h', 'added', 0],
    ]);
  });

  test('tell what has too many cases, and compare the rest', () => {
    const many = Array.from(
      { length: 210 },
      (_, i) => `  g${i}: { at: '/p/:x(a*)${i}:y(b*)${i % 7}:z', admit: role r }`,
    ).join('\n');
    const text = (admit: string): string =>
      `pages: { /: Home, /in: In, /a: A, '/p/:any': P }\ngates:\n  own: { at: [/a, '/p/:any'], admit: ${admit} }\n${many}\n`;
    const compared = compare(text('role r'), text('role s'));
    expect(compared.notCompared).toContain('/p/:any');
    expect(told(compared)).toContain(
      'page /a loses: anyone with the role r, except anyone with the role s, reach → block',
    );
  });
});

describe('the causes of a difference', () => {
  const headed = (body: string, more: string) =>
    siteOf(body, HEAD.replace('sign-in: /in', `sign-in: /in${more}`));

  test('are two changes that only together make it', () => {
    const before = `${PAGES}${gate('role r')}redirects: [{ from: /a, to: /shop }]\n`;
    const { changes, differences } = compare(before, PAGES);
    const [visit] = differences;
    expect(visit!.causes.map((i) => changes[i]!.rule).sort()).toEqual(['gate g', 'redirect /a']);
  });

  test('are not changes beside it: full access is not told as a change of the page', () => {
    const closed = PAGES + gate('nobody');
    const compared = queries.compareSites(
      site(closed),
      headed(closed.replace('/a: A', '/a: New title'), ', full-access: role s'),
      NOW,
    );
    expect(causes(compared)).toEqual(['/a: setting full-access']);
  });

  test('name the time zone for dates that it moves', () => {
    const dated = 'pages: { /: Home, /in: In, /a: { title: A, from: 2027-03-01 } }\n';
    const zoned = siteOf(dated, HEAD.replace('Europe/London', 'Asia/Tokyo'));
    const { changes } = queries.compareSites(site(dated), zoned, NOW);
    expect(changes.find(({ rule }) => rule === 'setting time-zone')!.differences).toBe(1);
  });

  test('are found at a host that is given up, and behind a whole URL of the site', () => {
    const also = headed(PAGES, ', also: [https://www.c.example]');
    expect(told(queries.compareSites(also, site(PAGES), NOW))).toEqual([
      'other-address https://www.c.example/ loses: everyone, reach → invalid',
    ]);
    const leading = PAGES.replace(
      '/a: A',
      '/a: A, /x: { title: X, leads-to: "https://c.example/a" }',
    );
    expect(told(compare(leading, leading + gate('nobody')))).toContain(
      'page /x loses: guests, reach → sign-in',
    );
  });

  test.each([
    [
      'a menu that stands on other pages',
      'menus: { m: { links: [/a] } }',
      'menus: { m: { links: [/a], on: /shop } }',
      'menu-link m: /a otherwise: everyone',
    ],
    [
      'a landing that takes visitors back first',
      'landings: [{ after: sign-in, go: /a }]',
      'landings: [{ after: sign-in, go: /a, return-first: yes }]',
      'landing after sign-in otherwise: anyone signed in, reach → reach',
    ],
  ])('are found for %s', (_, before, after, expected) => {
    expect(told(compare(PAGES + before, PAGES + after))).toEqual([expected]);
  });

  test('are found where a menu shows a link from a later moment on', () => {
    const later = PAGES.replace('/a: A', '/a: { title: A, from: 2027-03-01 }');
    const menu = (links: string) => `${later}menus: { m: { links: [${links}], shows: usable } }\n`;
    expect(told(compare(menu('/shop'), menu('/shop, /a')))).toEqual([
      'menu-link m: /a gains: everyone, from 2027-03-01T00:00:00Z',
    ]);
  });
});
