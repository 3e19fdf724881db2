import { isDeepStrictEqual } from 'node:util';
import { decisions, siteFiles } from '../src/index.ts';
import { asText, asVisitor } from './reference/as-core.ts';
import { Model } from './reference/model.ts';
import { chance, randomBy } from './reference/random-site.ts';
import { NOW } from './support.ts';

/** As many visits as are made; more are asked for outside of the suite. */
const VISITS = Number(process.env['KLEIDON_VISITS'] ?? 6000);
const EACH = 40;
const SEED = Number(process.env['KLEIDON_SEED'] ?? 1);

/** Where the two differ, with all that is needed to see why. */
const differing = (site: string, about: object, core: unknown, model: unknown): Error =>
  new Error([site, ...[about, { core }, { model }].map((one) => JSON.stringify(one))].join('\n'));

test('decides as a model that was written from the documents alone', () => {
  const by = chance(randomBy(SEED));
  let made = 0;
  let tied = 0;
  const outcomes = new Map<string, number>();
  while (made < VISITS) {
    const file = by.site();
    const text = asText(file);
    const read = siteFiles.readSite(text, 'random.yaml');
    // Some are errors by chance, such as two pages of one address.
    if (!read.ok) continue;
    const prepared: decisions.PreparedSite = decisions.prepareSite(read.site);
    const model = new Model(file, NOW);
    for (let i = 0; i < EACH; i++, made++) {
      const [person, address, method] = [by.person(), by.address(), by.method()];
      const visitor = asVisitor(person);
      const core = decisions.visit(prepared, { method, address }, visitor, NOW);
      const end = model.visit(address, person, method);
      const about = { address, method, person };
      outcomes.set(core.outcome, (outcomes.get(core.outcome) ?? 0) + 1);
      const decided = {
        outcome: core.outcome,
        status: core.status,
        final: core.final,
        fullAccess: core.fullAccess,
        locations: core.hops.map(({ decision }) => decision.location),
      };
      if (!isDeepStrictEqual(decided, end)) throw differing(text, about, decided, end);
      // Links are visits too, so that a few of each site are enough.
      if (i % 8 === 0) {
        const { parts, menus } = decisions.visibleTo(prepared, visitor, [], NOW);
        const shown = {
          parts: parts.filter((part) => part.visible).map(({ name }) => name),
          menus: menus.map(({ links }) =>
            links.filter((link) => link.visible).map((link) => link.address),
          ),
        };
        const seen = model.seen(person);
        if (!isDeepStrictEqual(shown, seen)) throw differing(text, { person }, shown, seen);
      }
      const after = by.is(0.5) ? 'sign-in' : 'sign-out';
      const from = by.is(0.5) && address.startsWith('/') ? address : null;
      const goes = model.land(after, person, from);
      if (goes === '?') tied++;
      else {
        const { address: lands } = decisions.landing(prepared, after, visitor, from, NOW);
        if (lands !== goes) throw differing(text, { about, after, from }, lands, goes);
      }
    }
  }
  // What is compared is of all kinds, and ties are few.
  for (const outcome of ['reach', 'sign-in', 'block', 'missing', 'away', 'loop', 'invalid'])
    expect([outcome, (outcomes.get(outcome) ?? 0) / made > 0.004]).toEqual([outcome, true]);
  expect(tied / made).toBeLessThan(0.2);
});

test('draws a grid of what the model says of each page and visitor', () => {
  const by = chance(randomBy(SEED + 1));
  let cells = 0;
  while (cells < 1500) {
    const file = by.site();
    const people = Array.from({ length: 4 }, () => by.person());
    const read = siteFiles.readSite(asText(file), 'random.yaml');
    if (!read.ok) continue;
    const visitors = people.map((person, i) => ({ ...asVisitor(person), name: `v${i}` }));
    const model = new Model(file, NOW);
    for (const { visited, cells: row } of decisions.grid(
      decisions.prepareSite(read.site),
      visitors,
      NOW,
    ).rows)
      people.forEach((person, i) => {
        const { outcome, status, final, fullAccess, locations } = model.visit(
          visited,
          person,
          'GET',
        );
        const hops = locations.filter((location) => location !== null).length;
        expect(row[`v${i}`]).toEqual({ outcome, status, final, hops, fullAccess });
        cells++;
      });
  }
});
