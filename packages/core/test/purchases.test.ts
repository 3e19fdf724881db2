import { decideForAll } from '../src/explore/decide-for-all.ts';
import { Atoms } from '../src/explore/atoms.ts';
import { exampleVisitor } from '../src/explore/example-visitor.ts';
import { familyOf } from '../src/explore/families.ts';
import { shortest } from '../src/explore/shortest.ts';
import { evaluate } from '../src/condition/evaluate.ts';
import { decisions, queries, type model } from '../src/index.ts';
import { randomBy } from './reference/random-site.ts';
import { errorsOf, GUEST, NOW, siteOf, someone } from './support.ts';

const DAY = 86_400_000;
/** As many rules as are tried; more are wanted outside of the suite. */
const TRIED = Number(process.env['KLEIDON_RULES'] ?? 20);
const HEAD = `kleidon: 1
site: { name: P, address: https://p.example, sign-in: /in }
roles: { r: R }
`;
const PRODUCTS = `products:
  map: { title: Map, buy-at: /buy/map }
  guide: { title: Guide, buy-at: /buy/guide, term: subscription, renew-at: /renew/guide, grace: 3d }
  both: { title: Both, buy-at: /buy/both, includes: [map, guide] }
  all: { title: All, includes: [both] }
`;
const PAGES =
  'pages: { /: Home, /in: In, /a: A, /buy/map: M, /buy/guide: G, /buy/both: B, /renew/guide: R }\n';
const site = (body: string, products = PRODUCTS) => siteOf(products + PAGES + body, HEAD);
const gate = (admit: string, otherwise = ''): string =>
  `gates: { g: { at: /a, admit: ${admit}${otherwise} } }\n`;

type State = 'in-force' | 'lapsed' | 'graced' | 'paused' | 'refunded' | 'upcoming';
const purchase = (product: string, state: State): model.Purchase => ({
  product,
  from: state === 'upcoming' ? NOW + DAY : null,
  until: state === 'lapsed' ? NOW - 30 * DAY : state === 'graced' ? NOW - DAY : null,
  refunded: state === 'refunded',
  paused: state === 'paused',
});
const buyer = (...bought: [string, State][]): model.Visitor =>
  someone({ bought: bought.map(([product, state]) => purchase(product, state)) });
const decided = (prepared: decisions.PreparedSite, visitor: model.Visitor) =>
  decisions.decide(prepared, { method: 'GET', address: '/a' }, visitor, NOW);

describe('an offer', () => {
  test('asks a guest to sign in where that alone admits', () => {
    const offered = site(gate('signed-in or bought map', ', otherwise: [{ do: offer }]'));
    expect(decided(offered, GUEST)).toMatchObject({
      outcome: 'sign-in',
      location: '/in?return=%2Fa',
    });
    const buying = site(gate('bought map', ', otherwise: [{ do: offer }]'));
    expect(decided(buying, GUEST).content).toMatchObject({ is: 'offers' });
  });

  test('of a product that is only renewed is for those who had it', () => {
    const only = PRODUCTS.replace('buy-at: /buy/guide, ', '').replace(
      'includes: [map, guide]',
      'includes: [map]',
    );
    const offered = site(gate('bought guide', ', otherwise: [{ do: offer }]'), only);
    expect(decided(offered, buyer(['guide', 'lapsed'])).location).toBe('/renew/guide?return=%2Fa');
    expect(decided(offered, buyer())).toMatchObject({ outcome: 'block', status: 403 });
  });
});

describe('what a condition asks of purchases', () => {
  test.each<[string, model.Visitor, boolean]>([
    ['bought map', buyer(['both', 'in-force']), true],
    ['bought map', buyer(['all', 'in-force']), true],
    ['bought both', buyer(['map', 'in-force'], ['guide', 'in-force']), false],
    ['ever bought guide', buyer(['all', 'lapsed']), true],
    ['bought guide', buyer(['guide', 'graced']), true],
    ['lapsed guide', buyer(['guide', 'graced']), false],
    ['bought map', buyer(['map', 'graced']), false],
    ['lapsed map', buyer(['map', 'graced']), true],
    // The days of grace are those of what was bought.
    ['bought guide', buyer(['both', 'graced']), false],
    ['lapsed guide', buyer(['both', 'graced']), true],
    ['lapsed map', buyer(['map', 'lapsed'], ['both', 'in-force']), false],
    ['paused map', buyer(['map', 'paused'], ['map', 'lapsed']), true],
    ['lapsed map', buyer(['map', 'paused'], ['map', 'lapsed']), true],
    ['refunded map', buyer(['map', 'refunded']), true],
    ['refunded map', buyer(['map', 'refunded'], ['map', 'in-force']), false],
    ['lapsed map', GUEST, false],
    ['not lapsed map', buyer(['map', 'upcoming']), true],
  ])('%s', (admit, visitor, isAdmitted) => {
    expect(decided(site(gate(admit)), visitor).outcome === 'reach').toBe(isAdmitted);
  });

  test('is said in words', () => {
    const { words } = queries.whoReaches(
      site(gate('lapsed guide or paused map or (refunded map and role r)')),
      '/a',
      NOW,
    )!;
    expect(words).toContain('anyone whose Guide has run out');
    expect(words).toContain('anyone whose Map is paused');
    expect(words).toContain('had Map refunded');
  });

  test.each([
    ['a: { includes: [b] }, b: { includes: [a] }', 'bundle-in-itself'],
    ['a: { includes: [a] }', 'bundle-in-itself'],
    ['a: { includes: [c] }', 'unknown-product'],
    ['a: { grace: 3 weeks }', 'wrong-value'],
    ['a: { renew-at: shop }', 'address'],
  ])('products { %s } are refused: %s', (products, code) => {
    const errors = errorsOf(`products: { ${products} }\n${PAGES}`, HEAD);
    expect(errors.map((one) => `${one.code} ${one.message}`).join()).toMatch(
      code === 'bundle-in-itself' ? /includes itself/ : new RegExp(code),
    );
  });
});

describe('an offer', () => {
  const offers = (admit: string, visitor: model.Visitor): string => {
    const { location, content } = decided(
      site(gate(admit, ', otherwise: [{ do: offer }]')),
      visitor,
    );
    if (content?.is !== 'offers') return location ?? 'nothing';
    return content.choices.map((set) => set.map(({ product }) => product).join('+')).join(' or ');
  };

  test.each<[string, model.Visitor, string]>([
    ['bought guide', someone(), 'guide or both'],
    ['bought map and bought guide', someone(), 'both or map+guide'],
    ['bought guide', buyer(['guide', 'lapsed']), '/renew/guide?return=%2Fa'],
    ['bought guide or bought map', buyer(['guide', 'lapsed']), '/renew/guide?return=%2Fa'],
    ['bought guide', buyer(['guide', 'refunded']), 'guide or both'],
    ['bought both', someone(), '/buy/both?return=%2Fa'],
    ['bought map and bought guide', buyer(['guide', 'in-force']), 'map or both'],
  ])('%s', (admit, visitor, offered) => {
    expect(offers(admit, visitor)).toBe(offered);
  });
});

/** Every visitor with up to two purchases, and a role or none. */
const EVERYONE: readonly model.Visitor[] = (() => {
  const one = ['map', 'guide', 'both', 'all'].flatMap((product) =>
    (['in-force', 'lapsed', 'graced', 'paused', 'refunded', 'upcoming'] as const).map((state) =>
      purchase(product, state),
    ),
  );
  const bought = [
    [],
    ...one.map((each) => [each]),
    ...one.flatMap((a, i) => one.slice(i + 1).map((b) => [a, b])),
  ];
  return [
    GUEST,
    ...bought.flatMap((all) => [someone({ bought: all }), someone({ bought: all, roles: ['r'] })]),
  ];
})();

test('by trial: explored for all is decided for each, and each part has an example', () => {
  const random = randomBy(Number(process.env['KLEIDON_SEED'] ?? 7));
  const one = <T>(of: readonly T[]): T => of[Math.floor(random() * of.length)]!;
  const condition = (depth: number): string => {
    if (depth === 0 || random() < 0.4)
      return random() < 0.15
        ? 'role r'
        : `${one(['bought', 'ever bought', 'lapsed', 'paused', 'refunded'])} ${one(['map', 'guide', 'both', 'all'])}`;
    return one([
      () => `not (${condition(depth - 1)})`,
      () => `(${condition(depth - 1)} and ${condition(depth - 1)})`,
      () => `(${condition(depth - 1)} or ${condition(depth - 1)})`,
    ])();
  };
  let parts = 0;
  for (let tried = 0; tried < TRIED; tried++) {
    const admit = condition(3);
    const otherwise = one([
      '',
      ', otherwise: [{ do: offer }]',
      `, otherwise: [{ who: '${condition(1)}', do: hide }]`,
    ]);
    const prepared = site(gate(admit, otherwise));
    const atoms = new Atoms(prepared.names);
    const all = [...decideForAll(prepared, atoms, { method: 'GET', address: '/a' }, NOW)];
    const inShort = ({ outcome, status, location, content }: decisions.Decision): string =>
      JSON.stringify([outcome, status, location, content]);
    const misplaced = EVERYONE.filter((visitor) => {
      const own = all.filter(({ visitors }) => atoms.knowing(visitors, visitor, NOW) !== 0);
      return own.length !== 1 || inShort(own[0]!.decision) !== inShort(decided(prepared, visitor));
    });
    expect([admit, otherwise, misplaced]).toEqual([admit, otherwise, []]);
    for (const { visitors, decision } of all) {
      if (!atoms.isAnyone(visitors)) continue;
      parts++;
      const { condition: written } = shortest(atoms, visitors);
      const found = exampleVisitor(atoms, visitors, familyOf('/a'), prepared.names, NOW);
      const said = [admit, otherwise, found?.visitor.bought];
      expect([...said, found && inShort(decided(prepared, found.visitor))]).toEqual([
        ...said,
        inShort(decision),
      ]);
      const wrong = EVERYONE.filter((visitor) => {
        const situation = { visitor, at: NOW, path: {}, query: '' };
        const isIn = atoms.knowing(visitors, visitor, NOW) !== 0;
        return evaluate(written, situation, prepared.names) !== isIn;
      });
      expect([admit, wrong]).toEqual([admit, []]);
    }
  }
  expect(parts).toBeGreaterThan(2 * TRIED);
});

test('other days of grace are not compared, and that is said', () => {
  const before = site(gate('bought guide') + 'parts: {}\n');
  const after = site(gate('bought guide'), PRODUCTS.replace('grace: 3d', 'grace: 5d'));
  const { changes, notCompared } = queries.compareSites(before, after, NOW);
  expect(changes.map(({ rule }) => rule)).toEqual(['product guide']);
  expect(notCompared).toContain('/a');
});
