/**
 * What one whole decision costs, with more and more rules, beside a well-known router looking up one
 * of 10,000 routes: at addresses that traffic keeps coming back to, and at ones that nobody asked for lately.
 */
import FindMyWay from 'find-my-way';
import { decisions, siteFiles } from '@kleidon/core';
import { beside } from './rounds.mjs';
import { count, pageAt, redirectAt, siteFile } from './sample.mjs';

const SIZES = [100, 10_000, 100_000];
const ROUTES = 10_000;
const [HOT, COLD] = [100, 20_000];
/** How many addresses a round asks for. */
const ASKED = 200_000;

/** Spread over all there are, the same each time. */
const spread = (amount, of) => count(amount, (i) => (i * 7919) % of);
/** As a server gets it: in one piece. */
const sent = (address) => Buffer.from(address).toString('latin1');

const router = FindMyWay();
count(ROUTES, (i) => router.on('GET', i % 5 === 0 ? `${pageAt(i)}/:id` : pageAt(i), () => {}));
const routes = (amount) =>
  spread(amount, ROUTES).map((i) => sent(i % 5 === 0 ? `${pageAt(i)}/x` : pageAt(i)));
const addresses = (amount, size) =>
  spread(amount, size).map((i, at) => sent(at % 3 === 0 ? redirectAt(i) : pageAt(i)));

const repeat = (all, ask) => () => {
  for (let i = 0; i < ASKED / all.length; i += 1) for (const address of all) ask(address);
};
const lookUp = (amount) => repeat(routes(amount), (address) => router.find('GET', address));
const decide = ({ prepared, size }, amount) => {
  const visitor = prepared.site.visitors[1];
  return repeat(addresses(amount, size), (address) =>
    decisions.decide(prepared, { method: 'GET', address }, visitor, 0),
  );
};

const sites = SIZES.map((size) => {
  const read = siteFiles.readSite(siteFile(size), 'bench.yaml');
  if (!read.ok) throw new Error(read.errors[0].message);
  const begin = performance.now();
  const prepared = decisions.prepareSite(read.site);
  return { size, prepared, index: performance.now() - begin };
});

const nanoseconds = (ms) => Math.round((ms * 1e6) / ASKED);
function compare(title, amount, measured) {
  const reference = lookUp(amount);
  const works = measured.map((site) => decide(site, amount));
  // Everything is warm before the first round.
  for (const work of [reference, ...works, reference, ...works]) work();
  console.log(title);
  console.table(
    Object.fromEntries(
      measured.map(({ size, index }, i) => {
        const { work, reference: other, ratio } = beside(works[i], reference);
        const growth = i === 0 ? 1 : beside(works[i], works[0]).ratio;
        return [
          `${size} redirects, ${size} pages`,
          {
            'ns a decision': nanoseconds(work),
            'the reference (ns)': nanoseconds(other),
            ratio: `${ratio.toFixed(2)} x`,
            growth: `${growth.toFixed(2)} x`,
            'index (ms)': Math.round(index),
          },
        ];
      }),
    ),
  );
}

console.log('One decision beside find-my-way looking up one route among 10,000\n');
compare(`${HOT} addresses, again and again:`, HOT, sites);
compare(`${COLD} addresses, each forgotten before it is asked for again:`, COLD, sites.slice(1));
console.log(
  'Aim, where addresses come again: at most 1.0 x the reference, and growth of at most 1.15 x.',
);
