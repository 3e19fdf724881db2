import { decisions, model, queries } from '../src/index.ts';
import { NOW, siteOf } from './support.ts';

const prepared = siteOf(
  `products:
  pass: { title: Pass, buy-at: /shop }
  plan: { title: Plan, buy-at: /shop }
  all: { title: Everything, buy-at: /shop, includes: [pass, plan] }
audiences: { holders: bought pass or role crew }
pages: { /: Home, /in: In, /shop: Shop, /old: { title: Old, leads-to: /team }, /team: Team, /team/plan: Plan }
gates:
  team: { under: /team, admit: holders, otherwise: [{ who: guest, do: sign-in }, { who: anyone, do: offer }] }
  plan: { at: /team/plan, admit: bought plan, narrows: yes }
redirects: [{ from: /t, to: /team }]
`,
  `kleidon: 1
site: { name: T, address: https://t.example, sign-in: /in, full-access: role boss }
roles: { boss: Boss, crew: Crew }
`,
);
const someone = (...roles: string[]): model.Visitor => ({
  ...model.GUEST,
  guest: false,
  id: 'someone',
  roles,
});
const ordinary = (address: string, visitor: model.Visitor, method = 'GET'): string[] =>
  queries
    .explainVisit(prepared, decisions.visit(prepared, { method, address }, visitor, NOW))
    .ordinary.map(({ who, outcome, final }) => `${who}: ${outcome} at ${final}`);

describe('a visit with full access', () => {
  test('says what a guest, someone signed in and buyers would meet', () => {
    expect(ordinary('/team', someone('boss'))).toEqual([
      'a guest: sign-in at /in?return=%2Fteam',
      'someone signed in: block at /team',
      'a buyer of Pass: reach at /team',
      'a buyer of Everything: reach at /team',
    ]);
  });

  test('by the gates above, too, and where it leads', () => {
    expect(ordinary('/team/plan', someone('boss')).slice(2)).toEqual([
      'a buyer of Plan: block at /team/plan',
      'a buyer of Everything: reach at /team/plan',
      'a buyer of Pass: block at /team/plan',
    ]);
    expect(ordinary('/t', someone('boss')).slice(2)).toEqual([
      'a buyer of Pass: reach at /team',
      'a buyer of Everything: reach at /team',
    ]);
  });

  test('says nothing where full access made no difference', () => {
    expect(ordinary('/shop', someone('boss'))).toEqual([]);
    expect(ordinary('/team', someone('crew'))).toEqual([]);
    expect(ordinary('/team', model.GUEST)).toEqual([]);
  });
});
