/**
 * What 100,000 redirects in a list beside the site file cost: reading and indexing them, the memory they
 * take, one decision beside a look-up of the same addresses in a well-known router that has as many
 * routes, and 10,000 old addresses that someone pastes.
 */
import FindMyWay from 'find-my-way';
import { Bench } from 'tinybench';
import { decisions, model, siteFiles } from '@kleidon/core';
import { count } from './sample.mjs';

const SIZE = 100_000;
const HOT = 100;
const PASTED = 10_000;

const from = (i) => (i % 10 === 0 ? `/old-${i}` : `/archive/${i % 1000}/article-${i}`);
const to = (i) => `/journal/${i % 1000}/entry-${i}`;
const csv = [
  'from,to,kind,note',
  ...Array.from({ length: SIZE }, (_, i) =>
    i % 10 === 0 ? `${from(i)}/:x,${to(i)}/:x,permanent,` : `${from(i)},${to(i)},permanent,moved`,
  ),
].join('\r\n');
const site = `kleidon: 1
site: { name: Bench, address: https://bench.example }
pages: { /: Home, '/journal/*': Journal }
redirect-lists: [old.csv]
`;
const asked = (i) => (i % 10 === 0 ? `${from(i)}/x` : from(i));

globalThis.gc?.();
const before = process.memoryUsage().heapUsed;
const begin = performance.now();
const read = siteFiles.readSite(site, 'bench.yaml', () => csv);
if (!read.ok) throw new Error(read.errors[0].message);
const afterRead = performance.now();
const prepared = decisions.prepareSite(read.site);
const afterIndex = performance.now();
globalThis.gc?.();
const taken = process.memoryUsage().heapUsed - before;

const router = FindMyWay();
count(SIZE, (i) => router.on('GET', i % 10 === 0 ? `${from(i)}/:x` : from(i), () => {}));
const hot = count(HOT, (i) => asked((i * 7919) % SIZE));
const bench = new Bench({ time: 2000, warmupTime: 500 });
bench.add('router', () => hot.forEach((address) => router.find('GET', address)));
bench.add('decide', () =>
  hot.forEach((address) => decisions.decide(prepared, { method: 'GET', address }, model.GUEST, 0)),
);
await bench.run();
const median = (name) => (bench.getTask(name).result.latency.p50 * 1e6) / HOT;

const pasted = count(PASTED, (i) => asked((i * 31) % SIZE));
const beginList = performance.now();
const ends = decisions.visitList(prepared, pasted, [model.GUEST], 0);
const list = performance.now() - beginList;
if (ends.some(({ hops }) => hops !== 1)) throw new Error('Some did not end after one hop.');

console.log(`${SIZE} redirects from a list of ${(csv.length / 1e6).toFixed(1)} MB\n`);
console.table({
  'read (ms)': { value: Math.round(afterRead - begin) },
  'index (ms)': { value: Math.round(afterIndex - afterRead) },
  'read and index (ms), at most 2000': { value: Math.round(afterIndex - begin) },
  'memory (MB)': { value: Math.round(taken / 1e6) },
  'one redirect decided (ns)': { value: Math.round(median('decide')) },
  'one look-up in find-my-way (ns)': { value: Math.round(median('router')) },
  'beside the reference': { value: `${(median('decide') / median('router')).toFixed(2)} x` },
  [`where ${PASTED} old addresses end (ms), at most 2000`]: { value: Math.round(list) },
});
