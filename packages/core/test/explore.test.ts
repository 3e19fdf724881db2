import { isDeepStrictEqual } from 'node:util';
import { decisions, siteFiles } from '../src/index.ts';
import { Atoms } from '../src/explore/atoms.ts';
import { Explorer } from '../src/explore/explorer.ts';
import { ALL, NONE } from '../src/explore/visitor-sets.ts';
import type { VisitEnd } from '../src/visit/visit.ts';
import { asText, asVisitor } from './reference/as-core.ts';
import { chance, randomBy } from './reference/random-site.ts';
import { NOW, siteOf, someone } from './support.ts';

/** As many sites as are explored; more are wanted outside of the suite. */
const SITES = Number(process.env['KLEIDON_SITES'] ?? 40);
const SEED = Number(process.env['KLEIDON_SEED'] ?? 1);
const ADDRESSES = 10;
const VISITORS = 25;

/** How a visit ended, without the reasons, which name the visitor. */
const told = ({ outcome, status, final, fullAccess, hops }: VisitEnd) => ({
  outcome,
  status,
  final,
  fullAccess,
  hops: hops.map(({ address, decision: { reasons: _, ...decided } }) => ({ address, decided })),
});

test('each visitor is in one part, which ends as their visit does; the parts are all visitors', () => {
  const by = chance(randomBy(SEED));
  for (let sites = 0; sites < SITES;) {
    const text = asText(by.site());
    const read = siteFiles.readSite(text, 'random.yaml');
    // Some are errors by chance, such as two pages of one address.
    if (!read.ok) continue;
    sites++;
    const prepared = decisions.prepareSite(read.site);
    for (let i = 0; i < ADDRESSES; i++) {
      const request = { address: by.address(), method: by.method() };
      const explorer = new Explorer(prepared, NOW);
      const { atoms } = explorer;
      const { sets } = atoms;
      const found = explorer.partsOf(request.address, request.method);
      const possible = atoms.possible();
      let covered = NONE;
      for (const { visitors } of found) {
        const part = sets.and(visitors, possible);
        if (part === NONE || sets.and(covered, part) !== NONE)
          throw new Error(`${request.address}: a part is empty, or overlaps another\n${text}`);
        covered = sets.or(covered, part);
      }
      if (covered !== possible) throw new Error(`${request.address}: not all visitors\n${text}`);
      for (let v = 0; v < VISITORS; v++) {
        const visitor = asVisitor(by.person());
        const own = found.filter(({ visitors }) => atoms.knowing(visitors, visitor, NOW) === ALL);
        const real = decisions.visit(prepared, request, visitor, NOW);
        if (own.length !== 1 || !isDeepStrictEqual(told(own[0]!.end), told(real)))
          throw new Error(
            JSON.stringify([request, visitor, told(real), own.map(({ end }) => told(end))]) + text,
          );
      }
    }
  }
});

describe('what is possible', () => {
  /** How many parts a page has behind a gate. */
  const parts = (admit: string): number => {
    const site = siteOf(
      `roles: { a: x, b: y }\nproducts: { p: {} }\npages: { /: H }\ngates: { g: { at: /, admit: '${admit}', otherwise: [{ do: refuse }] } }`,
    );
    return new Explorer(site, NOW).partsOf('/').length;
  };

  test.each([
    ['role a', 2],
    ['role a and guest', 1],
    ['bought p and not ever bought p', 1],
    ['person sam and person kim', 1],
    ['person sam and visitor.id = "kim"', 1],
    ['person sam and not visitor.id = "sam"', 1],
    ['role a or not role a', 1],
    ['visitor.town = "Ayr" and not visitor.town in ["Ayr", "Oban"]', 1],
    ['visitor.level > 5 and not visitor.level > 3', 1],
    ['visitor.level > 3 and not visitor.level > 5', 2],
    // Someone may have several values.
    ['visitor.town = "Ayr" and visitor.town = "Oban"', 2],
    ['language = "gd" and language = "en"', 1],
  ])('%s: %i', (admit, count) => {
    expect(parts(admit)).toBe(count);
  });

  test('a set knows who is in it', () => {
    const site = siteOf('roles: { a: x }\nproducts: { p: {} }\npages: { /: H }');
    const atoms = new Atoms(site.names);
    const set = atoms.setOf(
      {
        is: 'and',
        of: [
          { is: 'role', name: 'a' },
          { is: 'bought', product: 'p', state: 'ever' },
        ],
      },
      null,
    );
    const bought = [{ product: 'p', from: null, until: NOW - 1, refunded: false, paused: false }];
    expect(atoms.knowing(set, someone({ roles: ['a'], bought }), NOW)).toBe(ALL);
    expect(atoms.knowing(set, someone({ roles: ['a'] }), NOW)).toBe(NONE);
  });
});
