/**
 * What it costs to know what a visitor bought: 200,000 purchases of 60,000 buyers, beside a decision that needs none.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decisions, model, siteFiles } from '@kleidon/core';
import { buyersOf } from '../packages/service/dist/gateway/buyers.js';
import { summaries } from '../packages/service/dist/shops/summary.js';
import { openDatabase } from '../packages/service/dist/store/database.js';
import { ledgerStore } from '../packages/service/dist/store/ledger.js';
import { beside, row } from './rounds.mjs';

const PURCHASES = 200_000;
const BUYERS = 60_000;
const ASKED = 2_000;
const AT = Date.parse('2026-11-26T12:00:00Z');

const read = siteFiles.readSite(
  `kleidon: 1
site: { name: Bench, address: https://bench.example, sign-in: /in }
products: { map: { title: Map }, guide: { title: Guide } }
pages: { /in: In, /open: Open, /map: Map }
gates: { open: { at: /open, admit: signed-in }, map: { at: /map, admit: bought map } }
`,
  'bench.yaml',
);
const site = decisions.prepareSite(read.site);
const folder = mkdtempSync(join(tmpdir(), 'kleidon-bench-'));
const db = openDatabase(folder);
const ledger = ledgerStore(db);
db.prepare("insert into site (id, created_at) values ('own', '2026')").run();
const event = {
  ...{ type: 'purchase.made', from: null, isPartly: false, visitor: null, formerEmail: null },
  receivedAt: AT,
};
ledger.addAll(
  'own',
  'hut',
  Array.from({ length: PURCHASES }, (_, i) => ({
    ...event,
    id: `e${i}`,
    at: AT - i * 1000,
    purchase: `o${i}`,
    product: i % 2 ? 'map' : 'guide',
    until: i % 4 ? AT + i * 60_000 : null,
    email: `b${(i * 7919) % BUYERS}@x.example`,
  })),
);
const visitor = (i) => ({
  ...model.GUEST,
  guest: false,
  id: `u${i}`,
  attributes: { email: `b${i}@x.example` },
});
let next = 0;
const decideAll = (address, who) => () => {
  for (let i = 0; i < ASKED; i++) decisions.decide(site, { method: 'GET', address }, who(i), AT);
};
const cold = buyersOf('own', ledger, () => AT);
const warm = buyersOf('own', ledger, () => AT);
const plain = decideAll('/open', visitor);
const results = {
  [`${ASKED} decisions of buyers who were not here before, beside those that need no purchase`]:
    beside(
      decideAll('/map', () => cold(visitor(next++ % BUYERS))),
      plain,
    ),
  [`the same of ${ASKED / 10} buyers who come again`]: beside(
    decideAll('/map', (i) => warm(visitor(i % (ASKED / 10)))),
    plain,
  ),
};
console.table(
  Object.fromEntries(
    Object.entries(results).map(([name, one]) => [
      name,
      {
        ...row(one),
        'more for each (us)': (((one.work - one.reference) * 1000) / ASKED).toFixed(1),
      },
    ]),
  ),
);
const begin = performance.now();
await summaries(ledger, () => AT)(site, 'own', AT);
console.log(`Counting ${PURCHASES} purchases: ${Math.round(performance.now() - begin)} ms.`);
console.log('Aim: at most 20 us more for each.');
db.close();
rmSync(folder, { recursive: true });
