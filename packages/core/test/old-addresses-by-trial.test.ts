import { proveGuarantees } from '../src/guarantees/prove.ts';
import { decisions, siteFiles, type model } from '../src/index.ts';
import { asText } from './reference/as-core.ts';
import { EVERYONE, SEED, SITES } from './reference/everyone.ts';
import { chance, randomBy } from './reference/random-site.ts';
import { NOW } from './support.ts';

const TRIED = Math.ceil(SITES / 4);

/** The moments at which anything changes by the dates of random sites. */
const MOMENTS = [NOW, Date.UTC(2027, 0, 1), Date.UTC(2027, 0, 2)];
const STEPS = ['a', 'b', 'c', 'x-a', 'x-b', 'old', 'zz'];
const PATHS = [
  '/',
  ...STEPS.flatMap((one) => [`/${one}`, ...STEPS.map((other) => `/${one}/${other}`)]),
  ...['/a/b/c', '/x-a/zz/q'],
];
const OLD = [
  ...['/x-*', '/:p', '/:p/a', '/old', '/a/*', '/*', 'https://old.example/*'],
  ...['https://old.example/:p', 'https://www.t.example/*', 'https://old.example/a'],
];

interface Entry {
  readonly from: string;
  readonly always: 'permanent';
  readonly hops?: number;
}

/** Whether an old address is not taken on by permanent redirects alone, or by too many. */
function isBroken(
  prepared: decisions.PreparedSite,
  { hops = Infinity }: Entry,
  address: string,
  visitor: model.Visitor,
  at: number,
): boolean {
  const visit = decisions.visit(prepared, { method: 'GET', address }, visitor, at);
  let redirects = 0;
  for (const { decision } of visit.hops) {
    if (decision.location === null || !['redirect', 'away'].includes(decision.outcome)) break;
    redirects++;
    if (![301, 308].includes(decision.status)) return true;
  }
  return redirects === 0 || redirects > hops || ['loop', 'invalid'].includes(visit.outcome);
}

test('old addresses arrive as is proved of them, and do not as is refuted', () => {
  const random = randomBy(SEED + 17);
  const by = chance(random);
  const one = <T>(of: readonly T[]): T => of[Math.floor(random() * of.length)]!;
  const is = (share: number): boolean => random() < share;
  const counts = { proved: 0, refuted: 0, unsettled: 0 };
  for (let sites = 0; sites < TRIED;) {
    const entries = Array.from({ length: 5 }, (): Entry => ({
      from: one(OLD),
      always: 'permanent',
      ...(is(0.5) ? { hops: one([1, 2]) } : {}),
    }));
    const file = by.site();
    const redirects = [
      ...file.redirects.filter(() => is(0.5)),
      ...entries
        .filter(() => is(0.6))
        .map(({ from }) => ({
          from,
          to: one([
            ...['/', '/b', '/in'],
            from.includes('*') ? '/b/*' : '/c',
            from.includes(':p') ? '/a/:p' : '/a',
          ]),
          kind: 'permanent',
          ...(is(0.5) ? { rank: 3 } : {}),
          ...(is(0.2) ? { when: 'signed-in' } : {}),
        })),
    ];
    const text = asText({ ...file, redirects, guarantees: entries } as never);
    const read = siteFiles.readSite(text, 'random.yaml');
    if (!read.ok) continue;
    sites++;
    const prepared = decisions.prepareSite(read.site);
    proveGuarantees(prepared, NOW).forEach((verdict, i) => {
      counts[verdict.is]++;
      const entry = entries[i]!;
      const [, host = '', pattern] = /^(https:\/\/[^/]*)?(.*)$/.exec(entry.from)!;
      const source = pattern!.replace(/:p/g, '[^/]+').replace(/\*/g, '.*');
      const isOld = (path: string): boolean => new RegExp(`^${source}$`).test(path);
      const fail = (why: string, what: unknown): never => {
        throw new Error(`${why}: ${JSON.stringify([entry, verdict.is, what])}\n${text}`);
      };
      if (verdict.is === 'refuted') {
        const { visitor, address, at } = verdict.witness;
        if (!isBroken(prepared, entry, address, visitor, at))
          fail('The witness does not break it', [address, visitor]);
        if (!address.startsWith(host) || !isOld(address.slice(host.length).replace(/\?.*/, '')))
          fail('The witness is no old address', address);
      }
      if (verdict.is !== 'proved') return;
      for (const at of MOMENTS)
        for (const path of PATHS.filter(isOld))
          for (const visitor of EVERYONE)
            if (isBroken(prepared, entry, host + path, visitor, at))
              fail('It is broken', [host + path, visitor, at]);
    });
  }
  expect(counts.proved).toBeGreaterThan(TRIED / 4);
  expect(counts.refuted).toBeGreaterThan(TRIED);
  expect(counts.unsettled).toBeLessThan(TRIED / 5);
});
