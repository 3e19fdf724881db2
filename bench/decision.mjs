/**
 * What one whole decision costs, with more and more rules, beside a well-known router looking up one
 * of 10,000 routes. Both ask for the same addresses in the same run; only the ratios mean something.
 */
import FindMyWay from 'find-my-way';
import { Bench } from 'tinybench';
import { decisions, siteFiles } from '@kleidon/core';
import { count, pageAt, redirectAt, siteFile } from './sample.mjs';

const SIZES = [100, 10_000, 100_000];
/** As many addresses in each size: real traffic keeps coming back to some. */
const HOT = 100;

const router = FindMyWay();
count(10_000, (i) => router.on('GET', i % 5 === 0 ? `${pageAt(i)}/:id` : pageAt(i), () => {}));
const routes = count(HOT, (i) => (i * 7919) % 10_000).map((i) =>
  i % 5 === 0 ? `${pageAt(i)}/x` : pageAt(i),
);

const sites = SIZES.map((size) => {
  const begin = performance.now();
  const read = siteFiles.readSite(siteFile(size), 'bench.yaml');
  if (!read.ok) throw new Error(read.errors[0].message);
  const afterRead = performance.now();
  const prepared = decisions.prepareSite(read.site);
  const addresses = count(HOT, (i) => (i * 7919) % size).map((i, at) =>
    at % 3 === 0 ? redirectAt(i) : pageAt(i),
  );
  return {
    size,
    prepared,
    addresses,
    read: afterRead - begin,
    index: performance.now() - afterRead,
  };
});

const bench = new Bench({ time: 2000, warmupTime: 500 });
bench.add('router', () => routes.forEach((address) => router.find('GET', address)));
for (const { size, prepared, addresses } of sites) {
  const visitor = prepared.site.visitors[1];
  bench.add(String(size), () =>
    addresses.forEach((address) =>
      decisions.decide(prepared, { method: 'GET', address }, visitor, 0),
    ),
  );
}
await bench.run();

const median = (name) => (bench.getTask(name).result.latency.p50 * 1e6) / HOT;
const reference = median('router');
const least = median(String(SIZES[0]));
console.log(
  `find-my-way, one look-up among 10,000 routes: ${Math.round(reference)} ns (the reference)\n`,
);
console.table(
  Object.fromEntries(
    sites.map(({ size, read, index }) => [
      `${size} redirects, ${size} pages`,
      {
        'ns a decision': Math.round(median(String(size))),
        'beside the reference': `${(median(String(size)) / reference).toFixed(2)} x`,
        growth: `${(median(String(size)) / least).toFixed(2)} x`,
        'read (ms)': Math.round(read),
        'index (ms)': Math.round(index),
      },
    ]),
  ),
);
console.log(
  'Aim: at most 2 x the reference, and growth under 1.5 x from the smallest to the largest.',
);
