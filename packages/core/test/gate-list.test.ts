import { queries } from '../src/index.ts';
import { NOW, sampleSite, siteOf } from './support.ts';

const gatesOf = (body: string) => queries.gateList(siteOf(body), NOW);

test('the lists of gates and pages speak of all addresses of a page', () => {
  const body = `roles: { crew: Crew }
pages: { '/docs/:name': Documents, /sign-in: Sign in }
gates: { payroll: { at: /docs/payroll, admit: role crew } }
`;
  expect(gatesOf(body)[0]).toMatchObject({ pages: ['/docs/:name'] });
  expect(queries.pageList(siteOf(body), NOW)[0]).toMatchObject({
    words: 'everyone',
    others: [
      { example: '/docs/payroll', within: ['/docs/payroll'], words: 'anyone with the role crew' },
    ],
  });
});

describe('the list of gates', () => {
  test('says whom each admits, and what happens to everyone else', () => {
    const [gate] = gatesOf(`roles: { crew: Crew }
pages: { /: Home, /crew: Crew, /sign-in: Sign in, /join: Join }
gates:
  crew-room:
    under: /crew
    admit: role crew
    otherwise:
      - { who: guest, do: sign-in }
      - { do: refuse, say: For the crew. }
`);
    expect(gate).toEqual({
      name: 'crew-room',
      right: 'view',
      scopes: ['/crew and all beneath it'],
      admits: 'anyone with the role crew',
      otherwise: [
        { who: 'guests', what: 'asked to sign in, and taken back afterwards' },
        { who: 'everyone', what: 'refused: “For the crew.”' },
      ],
      narrows: false,
      fullAccess: true,
      isInForce: true,
      above: [],
      inside: [],
      pages: ['/crew'],
      line: 6,
    });
  });

  test('says what happens where a gate says nothing of someone', () => {
    const site = `pages: { /: Home, /a: A, /sign-in: Sign in }
gates: { g: { at: /a, admit: person kim`;
    expect(gatesOf(`${site} } }`)[0]!.otherwise).toEqual([
      { who: 'guests', what: 'asked to sign in, and taken back afterwards' },
      { who: 'everyone', what: 'refused' },
    ]);
    expect(gatesOf(`${site}, otherwise: [{ who: guest, do: hide }] } }`)[0]!.otherwise).toEqual([
      { who: 'guests', what: 'told that there is no such page' },
      { who: 'everyone', what: 'refused' },
    ]);
  });

  test('tells the gates above and inside, by the pages that they share, and not of other rights', () => {
    const gates = gatesOf(`roles: { a: A, b: B }
pages: { /: Home, /x: X, /x/y: Y, /x/y/z: Z, /sign-in: S }
gates:
  outer: { under: /x, admit: role a }
  inner: { under: /x/y, admit: role b, until: 2020-01-01 }
  innermost: { at: /x/y/z, admit: anyone }
  editing: { under: /x, right: change, admit: role a }
`);
    expect(
      gates.map(({ name, above, inside, pages, isInForce }) => ({
        name,
        above,
        inside,
        pages: pages.length,
        isInForce,
      })),
    ).toEqual([
      { name: 'outer', above: [], inside: ['inner', 'innermost'], pages: 3, isInForce: true },
      { name: 'inner', above: ['outer'], inside: ['innermost'], pages: 2, isInForce: false },
      { name: 'innermost', above: ['inner', 'outer'], inside: [], pages: 1, isInForce: true },
      { name: 'editing', above: [], inside: [], pages: 3, isInForce: true },
    ]);
  });

  test('has a sentence for each way of turning someone away', () => {
    const [gate] = gatesOf(`pages: { /: Home, /a: A, /why: Why, /sign-in: S }
products: { p: { title: Permit, buy-at: /why } }
gates:
  g:
    at: /a
    admit: bought p
    otherwise:
      - { who: person kim, do: hide }
      - { who: person sam, do: refuse, show: /why }
      - { who: person lee, do: send, to: /why }
      - { who: signed-in, do: offer }
      - { do: refuse }
`);
    expect(gate!.otherwise.map(({ what }) => what)).toEqual([
      'told that there is no such page',
      'refused, and shown /why',
      'sent to /why',
      'offered the products that would admit them',
      'refused',
    ]);
  });

  test('of the sample has every gate, each with pages', () => {
    const site = sampleSite();
    const gates = queries.gateList(site, NOW);
    expect(gates.map(({ name }) => name)).toEqual(site.site.gates.map(({ name }) => name));
    expect(gates.filter(({ pages }) => pages.length === 0)).toEqual([]);
  });
});
