/**
 * Measures the waiting time of visitors during the requests of operators. Each request of an operator runs on 20,000
 * pages, and visitors send 20 requests a second to the gateway. The reference is the idle gateway in the same run. `--pages N` makes the site
 * larger or smaller.
 */
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { Worker } from 'node:worker_threads';
import { count, pageAt } from './sample.mjs';

const ROOT = fileURLToPath(new URL('..', import.meta.url));
const { values } = parseArgs({ options: { pages: { type: 'string', default: '20000' } } });
const PAGES = Number(values.pages);
const EVERY = 50;
const IDLE_FOR = 10_000;
const GIVEN_UP_AFTER = 300_000;

const siteFile = (extra = '') =>
  [
    'kleidon: 1',
    'site: { name: Bench, address: https://bench.example, sign-in: /sign-in }',
    'roles: { crew: Helps, member: Pays }',
    'pages:',
    '  /: Home',
    '  /sign-in: Sign in',
    ...count(PAGES, (i) => `  ${pageAt(i)}: Page ${i}`),
    'gates:',
    ...count(
      PAGES / 100,
      (i) => `  gate-${i}: { at: ${pageAt(i * 8)}, admit: role ${i % 3 ? 'crew' : 'member'} }`,
    ),
    '  private: { under: "/shop/:section/private", admit: signed-in }',
    'redirects:',
    ...count(PAGES / 4, (i) => `  - { from: /old/item-${i}, to: ${pageAt(i)} }`),
    extra,
    'visitors:',
    '  gale: { guest: yes }',
    '  vik: { roles: [crew] }',
    '  mem: { roles: [member] }',
  ]
    .filter(Boolean)
    .join('\n');
/** Each redirect leads to the next one. */
const chainFile = (length) =>
  `kleidon: 1\nsite: { name: Chain, address: https://chain.example }\npages: { /: Home }\nredirects:\n${count(length, (i) => `  - { from: /r${i}, to: /${i === length - 1 ? '' : `r${i + 1}`} }`).join('\n')}\n`;

/** Sends a request every so often, and notes how long each took. */
const VISITORS = `
import { get, Agent } from 'node:http';
import { parentPort, workerData } from 'node:worker_threads';
const agent = new Agent({ keepAlive: true });
let took = [];
let open = new Set();
setInterval(() => {
  const begin = performance.now();
  open.add(begin);
  const done = () => { open.delete(begin); took.push(performance.now() - begin); };
  get(workerData.address + workerData.path, { agent, headers: { Host: workerData.host } }, (answer) => {
    answer.resume().on('end', done).on('error', done);
  }).on('error', done);
}, workerData.every);
parentPort.on('message', (what) => {
  const waiting = [...open].map((begin) => performance.now() - begin);
  if (what === 'tell') parentPort.postMessage([...took, ...waiting.filter((ms) => ms > 100)]);
  took = [];
});
`;

const folder = mkdtempSync(join(tmpdir(), 'kleidon-bench-'));
const children = [];
async function start(args, ready) {
  const child = spawn(process.execPath, args, { stdio: ['ignore', 'pipe', 'inherit'] });
  children.push(child);
  for await (const line of createInterface({ input: child.stdout })) {
    const found = ready(line);
    if (found) {
      child.stdout.resume();
      return found;
    }
  }
  throw new Error(`${args[0]} did not start.`);
}

try {
  const origin = await start(
    [join(ROOT, 'bench', 'gateway-helper.mjs'), 'website'],
    (line) => /^at (\S+)/.exec(line)?.[1],
  );
  const settings = join(folder, 'settings.yaml');
  writeFileSync(
    settings,
    `check-timeout: 120\ngateways:\n  - { site: bench, port: 0, origin: '${origin}' }\n`,
  );
  let gateway;
  const service = await start(
    [
      join(ROOT, 'packages', 'cli', 'bin', 'kleidon.js'),
      ...['serve', '--port', '0', '--log-level', 'error', '--max-body', '40'],
      ...['--data', join(folder, 'data'), '--settings', settings],
    ],
    (line) => {
      gateway ??= /^The gateway of bench is at (\S+),/.exec(line)?.[1];
      return /^Kleidon is at (\S+)/.exec(line)?.[1];
    },
  );
  const api = `${service}/api`;
  const site = `${api}/sites/bench`;
  let version = 1;
  const send = async (address, method, body, type = 'application/json') => {
    const headers = { 'Content-Type': type, 'If-Match': `"${version}"` };
    const signal = AbortSignal.timeout(GIVEN_UP_AFTER);
    const answer = await fetch(address, { method, headers, body, signal });
    const bytes = await answer.arrayBuffer();
    const text = Buffer.from(bytes).toString();
    return { status: answer.status, bytes: bytes.byteLength, text };
  };
  const get = (path) => send(site + path, 'GET');
  const post = (path, body) => send(site + path, 'POST', JSON.stringify(body));
  const yaml = (address, method, text) => send(address, method, text, 'application/yaml');
  const save = async (text) => {
    const saved = await yaml(`${site}/draft`, 'PUT', text);
    version = JSON.parse(saved.text).version ?? version;
    return saved;
  };
  const edit = { do: 'put', section: 'pages', name: '/new', was: null, value: 'New' };

  const REQUESTS = {
    'add a site': () => yaml(`${api}/sites?id=other`, 'POST', siteFile()),
    'save the draft': () =>
      save(siteFile('  - { from: /moved, to: /sign-in }\n  - { from: /gone, to: /nowhere }')),
    'check the draft': () => get('/check'),
    'list the pages': () => get('/pages'),
    'list the gates': () => get('/gates'),
    'reach grid': () => get('/grid'),
    'reach grid of kinds': () => get('/grid?kinds=yes'),
    'kinds of visitors': () => get('/kinds'),
    'redirects as a table': () => get('/redirects'),
    'visits of 1,000 addresses': () => post('/visit-lists', { addresses: count(1000, pageAt) }),
    'who reaches a page': () => get(`/who-reaches?address=${pageAt(8)}`),
    'what a visitor reaches': () => post('/reached-by', { as: 'vik' }),
    'add a pending change': () => post('/changes/bench-changes', edit),
    'effect of a change': () => post('/effect', { edits: [edit] }),
    'compare draft and release': () =>
      post('/comparison', { before: { state: 'live' }, after: { state: 'draft' } }),
    'compare a chain of 30,000': () =>
      post('/comparison', {
        before: { text: chainFile(2) },
        after: { text: chainFile(30_000) },
      }),
    'suggestions for a miss': () =>
      get('/suggestions?as=gale&state=live&address=/news/secton-1/pag-1'),
    release: () => post('/releases', { note: 'Again' }),
    'check a text of 15 MB': () => yaml(`${api}/check`, 'POST', siteFile(`#${'x'.repeat(14e6)}`)),
  };

  const added = await yaml(`${api}/sites?id=bench`, 'POST', siteFile());
  if (added.status !== 201) throw new Error(added.text.slice(0, 500));
  const first = await post('/releases', { note: 'First' });
  if (first.status !== 201) throw new Error(first.text.slice(0, 500));

  const visitors = new Worker(new URL(`data:text/javascript,${encodeURIComponent(VISITORS)}`), {
    workerData: { address: gateway, path: pageAt(1), host: 'bench.example', every: EVERY },
  });
  const during = async (work) => {
    visitors.postMessage('begin');
    const begin = performance.now();
    const answer = await work();
    const seconds = (performance.now() - begin) / 1000;
    visitors.postMessage('tell');
    const all = await new Promise((resolve) => visitors.once('message', resolve));
    all.sort((a, b) => a - b);
    const at = (share) => all[Math.min(all.length - 1, Math.floor(all.length * share))] ?? 0;
    return { ...answer, seconds, visits: all.length, p99: at(0.99), longest: all.at(-1) ?? 0 };
  };
  const idle = await during(() => new Promise((resolve) => setTimeout(resolve, IDLE_FOR)));
  const told = (row) => ({
    status: row.status ?? '',
    seconds: row.seconds.toFixed(1),
    'MB sent': row.bytes ? (row.bytes / 1e6).toFixed(1) : '',
    visits: row.visits,
    'p99 (ms)': row.p99.toFixed(0),
    'longest (ms)': row.longest.toFixed(0),
    'p99 beside idle': `${(row.p99 / idle.p99).toFixed(1)} x`,
  });
  const table = { idle: told(idle) };
  for (const [name, work] of Object.entries(REQUESTS)) {
    try {
      table[name] = told(await during(work));
    } catch (error) {
      table[name] = { status: error.message };
    }
  }
  console.log(`${PAGES} pages; visitors send ${1000 / EVERY} requests a second.`);
  console.table(table);
  await visitors.terminate();
} finally {
  for (const child of children) child.kill('SIGKILL');
  rmSync(folder, { recursive: true, force: true });
}
