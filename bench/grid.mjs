/**
 * What the reach grid of a large site costs in one thread: 10,000 pages, 500 gates, 50 visitors; beside
 * the same half million cells decided one by one.
 */
import { decisions, siteFiles } from '@kleidon/core';
import { beside } from './rounds.mjs';
import { count, pageAt } from './sample.mjs';

const PAGES = 10_000;
const GATES = 500;
const VISITORS = 50;
const AT = Date.UTC(2026, 10, 23);

const file = [
  'kleidon: 1',
  'site: { name: Bench, address: https://bench.example, sign-in: /sign-in, full-access: role admin }',
  `roles: { admin: Runs it, ${count(20, (i) => `r${i}: Role ${i}`).join(', ')} }`,
  'pages:',
  '  /sign-in: Sign in',
  ...count(PAGES - 1, (i) => `  ${pageAt(i)}: Page ${i}`),
  'gates:',
  ...count(GATES, (i) => {
    const section = pageAt(i).replace(/\/page-\d+$/, i % 2 === 0 ? '' : `/page-${i}`);
    return `  g${i}: { under: ${section}, admit: role r${i % 20} or role r${(i + 7) % 20}, rank: ${i} }`;
  }),
  'visitors:',
  '  gale: { guest: yes }',
  ...count(VISITORS - 1, (i) => `  v${i}: { roles: [r${i % 20}, r${(i * 3) % 20}] }`),
].join('\n');

const read = siteFiles.readSite(file, 'bench.yaml');
if (!read.ok) throw new Error(read.errors[0].message);
const prepared = decisions.prepareSite(read.site);
const { pages, visitors } = read.site;

const { work, reference, ratio } = beside(
  () => decisions.grid(prepared, visitors, AT),
  () => {
    for (const { example } of pages) {
      for (const visitor of visitors)
        decisions.decide(prepared, { method: 'GET', address: example }, visitor, AT);
    }
  },
);
console.log(`${PAGES} pages, ${GATES} gates, ${VISITORS} visitors: ${PAGES * VISITORS} cells`);
console.table({
  'the grid, every visit to its end': {
    ms: Math.round(work),
    'beside the other': `${ratio.toFixed(2)} x`,
  },
  'the first decision of each cell alone': {
    ms: Math.round(reference),
    'beside the other': '1.00 x',
  },
});
console.log('Aim: at most 1.2 x, and about 0.6 s.');
