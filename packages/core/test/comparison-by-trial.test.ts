import { normalizePath } from '../src/address/tidy.ts';
import { decodeGroups } from '../src/pattern/fill.ts';
import { groupsTaken } from '../src/pattern/matched-groups.ts';
import { lookUp } from '../src/pattern/pattern-index.ts';
import { parsePattern } from '../src/pattern/parse.ts';
import { evaluate } from '../src/condition/evaluate.ts';
import {
  comparedStates,
  visitDifferences,
  type VisitDifference,
} from '../src/comparison/compare-states.ts';
import { decisions, siteFiles, type model } from '../src/index.ts';
import { asText } from './reference/as-core.ts';
import { EVERYONE, SEED, SITES } from './reference/everyone.ts';
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

type State = decisions.PreparedSite;

const visitOf = (
  state: State,
  address: string,
  method: string,
  visitor: model.Visitor,
  at: number,
) => decisions.visit(state, { method, address }, visitor, at);

/** What a visitor can tell of a visit. */
const toldOf = ({ outcome, status, final, hops }: decisions.Visit): string =>
  JSON.stringify([
    outcome,
    status,
    final,
    hops.map(({ address, decision: { location, served, content } }) => [
      address,
      location,
      served,
      content,
    ]),
  ]);

/** The pieces of an address, by the pattern of the place that it is at. */
function piecesOf(
  [was, is]: readonly [State, State],
  place: VisitDifference['place'],
  path: string,
) {
  if (place.is === 'page')
    for (const state of [is, was]) {
      const match = lookUp(state.pages, path).find(
        ({ rule }) => rule.page.address === place.address,
      );
      if (match) return decodeGroups(match.groups);
    }
  const text = place.address.replace(/^https?:\/\/[^/]*/, '').replace(/\?.*$/, '');
  return decodeGroups(groupsTaken(parsePattern(text, { ignoreCase: true }), path));
}

test('two states differ for exactly those of whom it is told', () => {
  const random = randomBy(SEED + 11);
  const by = chance(random);
  const counts = { differing: 0, same: 0, told: 0 };
  for (let sites = 0; sites < TRIED;) {
    const file = by.site();
    const text = asText(file);
    const other = asText(changedBy(random, file, by.site()));
    const states = [prepared(text), prepared(other)] as const;
    const [was, is] = states;
    if (!was || !is) continue;
    sites++;
    const both = [was, is] as const;
    const fail = (why: string, what: unknown): never => {
      throw new Error(`${why}: ${JSON.stringify(what, null, 1)}\n${text}\n${other}`);
    };
    const compared = comparedStates(was, is, NOW);
    const differences = visitDifferences(compared);
    counts.told += differences.length;

    /** Whether it is told that visits of someone to an address differ from a moment on. */
    const isTold = (
      address: string,
      method: string,
      visitor: model.Visitor,
      at: number,
    ): boolean => {
      const path = address.startsWith('/') ? normalizePath(address, is.site.tidy) : address;
      return differences.some((one) => {
        const { place, right, explorer } = one;
        if (explorer.at > at || (method === 'GET' && right === 'change')) return false;
        const isThere =
          place.origin === ''
            ? place.family.has(path)
            : place.origin + place.family.example === address;
        if (!isThere) return false;
        const who = explorer.describe(one.visitors);
        const situation = { visitor, at, path: piecesOf(both, place, path), query: '' };
        return who !== null && evaluate(who.condition, situation, is.names);
      });
    };
    /** The same, or that they lead on to an address of which it is told. */
    const isImplied = (
      address: string,
      method: string,
      visitor: model.Visitor,
      at: number,
    ): boolean => {
      if (isTold(address, method, visitor, at)) return true;
      const [old, now] = both.map((state) => visitOf(state, address, method, visitor, at).hops);
      return old!.some(
        (hop, i) =>
          i > 0 &&
          hop.address === now![i]?.address &&
          (isTold(hop.address, 'GET', visitor, at) || isTold(hop.address, method, visitor, at)),
      );
    };

    const addresses = [
      ...both.flatMap(({ site }) =>
        site.pages.flatMap(({ example, aliases }) => [example, ...aliases]),
      ),
      ...Array.from({ length: 20 }, by.address).map((one) => one.replace(/\?.*$/, '')),
    ].filter((one) => one.startsWith('/'));
    for (const at of MOMENTS)
      for (const address of new Set(addresses))
        for (const method of ['GET', 'POST'])
          for (const visitor of EVERYONE) {
            const ends = both.map((state) => toldOf(visitOf(state, address, method, visitor, at)));
            const differs = ends[0] !== ends[1];
            counts[differs ? 'differing' : 'same']++;
            if (differs && !isImplied(address, method, visitor, at))
              fail('It is not told', [address, method, new Date(at), visitor, ends]);
          }
    // What is told is so: at the example, for everyone, at the moment of which it is told.
    for (const one of differences) {
      const { place, right, explorer } = one;
      const address = place.origin + place.family.example;
      const method = right === 'view' ? 'GET' : 'POST';
      const who = explorer.describe(one.visitors);
      if (who === null) fail('Nobody is told of', place);
      const path = piecesOf(both, place, place.family.example.replace(/\?.*$/, ''));
      const query = /\?(.*)$/.exec(address)?.[1] ?? '';
      for (const visitor of EVERYONE) {
        const situation = { visitor, at: explorer.at, path, query };
        if (!evaluate(who!.condition, situation, is.names)) continue;
        const ends = both.map((state) => visitOf(state, address, method, visitor, explorer.at));
        const [old, now] = ends.map(({ outcome, status, final }) =>
          [outcome, status, final].join(),
        );
        const said = [one.before, one.after].map(({ outcome, status, final }) =>
          [outcome, status, final].join(),
        );
        if (old !== said[0] || now !== said[1])
          fail('It is told and not so', [address, method, who, visitor, old, now, said]);
      }
    }
  }
  expect(counts.told).toBeGreaterThan(TRIED);
  expect(counts.differing).toBeGreaterThan(TRIED * 10);
  expect(counts.same).toBeGreaterThan(TRIED * 10);
});
