/**
 * What the whole truth about a large site costs: how visits end for every visitor there could be, and all
 * findings, of 10,000 pages with 500 gates; the same with 100,000 redirects besides; and reading a site file in
 * YAML. Each takes turns with something known.
 */
import { parseDocument } from 'yaml';
import { decisions, queries, siteFiles } from '@kleidon/core';
import { beside, row } from './rounds.mjs';
import { count } from './sample.mjs';

const PAGES = 10_000;
const GATES = 500;
const REDIRECTS = 100_000;
const YAML_PAGES = 20_000;
const VISITORS = 50;
// With these, rules ask forty things of a visitor.
const ROLES = 30;
const PRODUCTS = 10;
const AT = Date.UTC(2026, 10, 23);

const page = (i) => `/s${i % GATES}/d${i % 7}/page-${i}`;
const textOf = (pages, redirects) =>
  [
    'kleidon: 1',
    'site: { name: Bench, address: https://bench.example, sign-in: /in, full-access: role r0 }',
    `roles: { ${count(ROLES, (i) => `r${i}: Role`).join(', ')} }`,
    `products: { ${count(PRODUCTS, (i) => `p${i}: { buy-at: /buy/p${i} }`).join(', ')} }`,
    'pages:',
    '  /in: Sign in',
    ...count(PRODUCTS, (i) => `  /buy/p${i}: Buy`),
    ...count(pages, (i) => `  ${page(i)}: Page ${i}`),
    'gates:',
    ...count(GATES, (i) => {
      const other = i % 3 === 0 ? `bought p${i % PRODUCTS}` : `role r${(i * 7) % ROLES}`;
      return `  g${i}: { under: /s${i}, admit: role r${i % ROLES} or ${other} }`;
    }),
    ...(redirects === 0 ? [] : ['redirects:']),
    ...count(redirects, (i) => `  - { from: /old/x${i % 1000}/item-${i}, to: ${page(i % pages)} }`),
    'visitors:',
    '  gale: { guest: yes }',
    ...count(VISITORS - 1, (i) => `  v${i}: { roles: [r${i % 20}, r${(i * 3) % 20}] }`),
  ].join('\n');

function prepared(text) {
  const read = siteFiles.readSite(text, 'bench.yaml');
  if (!read.ok) throw new Error(read.errors[0].code);
  return decisions.prepareSite(read.site);
}

const site = prepared(textOf(PAGES, 0));
const { visitors } = site.site;
const yaml = textOf(YAML_PAGES, 0);
const grid = () => decisions.grid(site, visitors, AT);
const results = {
  [`who reaches each of ${PAGES} pages, beside the grid of ${VISITORS} visitors`]: beside(
    () => queries.pageList(site, AT),
    grid,
  ),
  [`findings for ${PAGES} pages and ${GATES} gates, beside the same`]: beside(
    () => queries.inspect(site, 'bench.yaml', AT),
    grid,
  ),
  [`reading ${YAML_PAGES} pages in YAML, beside the library's parser alone`]: beside(
    () => siteFiles.readSite(yaml, 'bench.yaml'),
    () => parseDocument(yaml, { uniqueKeys: false }),
  ),
};
const GUARANTEES = 20;
const guarantees = count(
  GUARANTEES,
  (i) =>
    `  - { who: not (role r0 or role r${i} or role r${(i * 7) % ROLES} or bought p${i % PRODUCTS}), never: reach, under: /s${i} }`,
);
const large = prepared([textOf(PAGES, REDIRECTS), 'guarantees:', ...guarantees].join('\n'));
if (queries.guaranteeList(large, AT).some(({ is }) => is !== 'proved'))
  throw new Error('A guarantee is not proved.');
results[`${GUARANTEES} guarantees with ${REDIRECTS} redirects besides, beside the grid`] = beside(
  () => queries.guaranteeList(large, AT),
  () => decisions.grid(large, visitors, AT),
);
// Twenty gates that admit another role, some redirects that lead elsewhere, and a page that is gone.
const after = prepared(
  textOf(PAGES, REDIRECTS)
    .split('\n')
    .map((line) => line.replace(/^( {2}g\d?5: .*admit: role )r\d+/, '$1r20'))
    .map((line) => line.replace(/^( {2}- { from: \/old\/x7\d\/item-\d+, to: ).*/, '$1/in }'))
    .filter((line) => !/^ {2}\/s7\/d7\/page-7:/.test(line))
    .join('\n'),
);
if (queries.compareSites(large, after, AT).differences.length === 0)
  throw new Error('Nothing differs.');
results[`comparing two states with ${REDIRECTS} redirects, beside the grid`] = beside(
  () => queries.compareSites(large, after, AT),
  () => decisions.grid(large, visitors, AT),
);
results[`kinds of visitors of ${PAGES} pages, beside the grid`] = beside(
  () => queries.kindList(large, AT),
  () => decisions.grid(large, visitors, AT),
);
const addresses = large.site.redirects.map(({ source }) => source);
results[`findings with ${REDIRECTS} redirects besides, beside following each once`] = beside(
  () => queries.inspect(large, 'bench.yaml', AT),
  () => decisions.visitList(large, addresses, [visitors[0]], AT),
);
console.table(Object.fromEntries(Object.entries(results).map(([name, one]) => [name, row(one)])));
console.log(
  'Aims: findings with redirects in 2 s, YAML in 2 s, guarantees in 1 s, comparing in 2 s, kinds in 1 s.',
);
