import { comparedStates, visitDifferences } from '../src/comparison/compare-states.ts';
import { decisions, siteFiles } from '../src/index.ts';
import { asText, asVisitor } from './reference/as-core.ts';
import { isAmong, isDiffering, isTold, toldOf, visitsOf } from './reference/differing.ts';
import { peopleIn, SEED, SITES } from './reference/everyone.ts';
import type { File } from './reference/model.ts';
import { chance, randomBy } from './reference/random-site.ts';
import { NOW } from './support.ts';

/** Each costs a second: all visitors at many addresses, in two states. */
const TRIED = Math.ceil(SITES / 4);

/** The moments at which anything changes by the dates of random sites. */
const MOMENTS = [NOW, Date.UTC(2027, 0, 1), Date.UTC(2027, 0, 2)];

type Section = 'pages' | 'gates' | 'redirects' | 'rewrites' | 'not-found' | 'products';

/** A site with something else in some of its sections. */
function changedBy(random: () => number, file: File, other: File): File {
  const is = (share: number): boolean => random() < share;
  const one = <T>(of: readonly T[]): T => of[Math.floor(random() * of.length)]!;
  const section = one<Section>(['pages', 'gates', 'gates', 'redirects', 'rewrites', 'not-found']);
  if (is(0.08)) return { ...file, site: { ...other.site, tidy: file.site.tidy ?? {} } };
  if (is(0.05)) return { ...file, products: other.products };
  const [own, others] = [file[section], other[section]];
  if (Array.isArray(own)) {
    const kept = (own as unknown[]).filter(() => is(0.7));
    return { ...file, [section]: [...kept, ...(others as unknown[]).slice(0, 1)] };
  }
  const kept = Object.entries(own).filter(([name]) => name === '/' || name === '/in' || is(0.7));
  const added = Object.entries(others).slice(section === 'pages' ? 2 : 0, 3);
  return { ...file, [section]: Object.fromEntries([...kept, ...added]) };
}

const prepared = (text: string): decisions.PreparedSite | null => {
  const read = siteFiles.readSite(text, 'random.yaml');
  return read.ok ? decisions.prepareSite(read.site) : null;
};

test('two states differ for exactly those of whom it is told', () => {
  const random = randomBy(SEED + 11);
  const by = chance(random);
  const counts = { differing: 0, same: 0, told: 0, cut: 0 };
  for (let sites = 0; sites < TRIED;) {
    const file = by.site();
    const text = asText(file);
    const changed = changedBy(random, file, by.site());
    const other = asText(changed);
    const everyone = peopleIn([file, changed]).map(asVisitor);
    const states = [prepared(text), prepared(other)] as const;
    const [was, is] = states;
    if (!was || !is) continue;
    sites++;
    const both = [was, is] as const;
    const fail = (why: string, what: unknown): never => {
      throw new Error(`${why}: ${JSON.stringify(what, null, 1)}\n${text}\n${other}`);
    };
    const compared = comparedStates(was, is, NOW);
    const { differences, notCompared } = visitDifferences(compared);
    // What has too many cases is named, and nothing is told of it.
    counts.cut += Math.min(1, notCompared.length);
    if (notCompared.length > 0) continue;
    counts.told += differences.length;

    const addresses = [
      ...both.flatMap(({ site }) =>
        site.pages.flatMap(({ example, aliases }) => [example, ...aliases]),
      ),
      ...Array.from({ length: 20 }, by.address).map((one) => one.replace(/\?.*$/, '')),
    ].filter((one) => one.startsWith('/'));
    for (const at of MOMENTS)
      for (const address of new Set(addresses))
        for (const method of ['GET', 'POST'])
          for (const visitor of everyone) {
            const asked = { address, method, visitor, at };
            const differs = isDiffering(both, asked);
            counts[differs ? 'differing' : 'same']++;
            if (differs && !isTold(both, differences, asked))
              fail('It is not told', [asked, visitsOf(both, asked).map(toldOf)]);
          }
    // What is told is so: at the example, for everyone, at the moment of which it is told.
    for (const one of differences) {
      const { place, right, explorer } = one;
      const address = place.origin + place.family.example + place.query;
      const method = right === 'view' ? 'GET' : 'POST';
      const [path = '', query = ''] = address.replace(place.origin, '').split('?');
      for (const visitor of everyone) {
        const asked = { address, method, visitor, at: explorer.at };
        if (!isAmong(both, one, asked, path, query)) continue;
        const [old, now] = visitsOf(both, asked).map(({ outcome, status, final }) =>
          [outcome, status, final].join(),
        );
        const said = [one.before, one.after].map(({ outcome, status, final }) =>
          [outcome, status, final].join(),
        );
        if (old !== said[0] || now !== said[1])
          fail('It is told and not so', [asked, old, now, said]);
      }
    }
  }
  expect(counts.cut).toBeLessThan(1 + TRIED / 10);
  expect(counts.told).toBeGreaterThan(TRIED);
  expect(counts.differing).toBeGreaterThan(TRIED * 10);
  expect(counts.same).toBeGreaterThan(TRIED * 10);
});
