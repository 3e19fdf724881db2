/**
 * Requests a second through the gateway, and what it adds to each, beside a bare reverse proxy in Node
 * and a well-known one, all before the same website in the same run; only the ratios mean something.
 * Each of them is a process of its own. A second part compares hidden pages with addresses where nothing is.
 * A third keeps the gateway under load while releases are made, and watches its memory. `--minute` makes
 * that part a minute long.
 */
import { spawn } from 'node:child_process';
import { readFileSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { fileURLToPath } from 'node:url';
import { Pool } from 'undici';

const ROOT = fileURLToPath(new URL('..', import.meta.url));
const SAMPLE = join(ROOT, 'demo', 'merrow-point.site.yaml');
const CLIENTS = 32;
const ROUNDS = 9;
const LONG = process.argv.includes('--minute') ? 60 : 10;
const PATH = '/visit/hides';
/** Alternating requests for a hidden and a missing page, for each method. */
const HIDDEN_ROUNDS = 1000;
const HIDING = `kleidon: 1
site: { name: Hiding, address: 'http://hiding.example', undeclared: website }
pages: { /: Home, /rooms/hidden: { title: Hidden, aliases: [/rooms/before] } }
gates: { hidden: { at: /rooms/hidden, admit: nobody, otherwise: [{ do: hide }] } }
`;

const children = [];
async function start(args, ready) {
  const child = spawn(process.execPath, args, { stdio: ['ignore', 'pipe', 'inherit'] });
  children.push(child);
  for await (const line of createInterface({ input: child.stdout })) {
    const found = ready.exec(line);
    if (found) {
      child.stdout.resume();
      return { address: found[1], pid: child.pid };
    }
  }
  throw new Error(`${args[0]} did not start.`);
}
const helper = (what, ...more) =>
  start([join(ROOT, 'bench', 'gateway-helper.mjs'), what, ...more], /^at (\S+)/);

const folder = mkdtempSync(join(tmpdir(), 'kleidon-bench-'));
try {
  const origin = await helper('website');
  const settings = join(folder, 'settings.yaml');
  writeFileSync(
    settings,
    `gateways:\n${['merrow-point', 'hiding'].map((site) => `  - { site: ${site}, port: 0, origin: '${origin.address}' }\n`).join('')}`,
  );
  const gateways = {};
  const service = await start(
    [
      join(ROOT, 'packages', 'cli', 'bin', 'kleidon.js'),
      ...['serve', '--port', '0', '--log-level', 'warn'],
      ...['--data', join(folder, 'data'), '--settings', settings],
    ],
    {
      exec: (line) => {
        const [, site, address] = /^The gateway of (\S+) is at (\S+),/.exec(line) ?? [];
        if (site) gateways[site] = address;
        return /^Kleidon is at (\S+)/.exec(line);
      },
    },
  );
  const text = readFileSync(SAMPLE, 'utf8');
  const at = `${service.address}/api/sites/merrow-point`;
  const yaml = { 'Content-Type': 'application/yaml' };
  const release = (site, version) =>
    fetch(`${service.address}/api/sites/${site}/releases`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', 'If-Match': `"${version}"` },
      body: '{"note":"x"}',
    });
  for (const [site, body] of [
    ['merrow-point', text],
    ['hiding', HIDING],
  ]) {
    await fetch(`${service.address}/api/sites?id=${site}`, { method: 'POST', headers: yaml, body });
    await release(site, 1);
  }
  const gateway = gateways['merrow-point'];

  const proxies = {
    'the website itself': origin.address,
    'bare proxy in Node': (await helper('bare', origin.address)).address,
    'http-proxy': (await helper('http-proxy', origin.address)).address,
    'Kleidon gateway': gateway,
  };
  for (const address of Object.values(proxies)) await load(address, 1);
  // By turns, a second each: what else the machine does falls on all of them alike.
  const rounds = [];
  for (let round = 0; round < ROUNDS; round++) {
    const measured = {};
    for (const [name, address] of Object.entries(proxies)) measured[name] = await load(address, 1);
    rounds.push(measured);
  }
  const middle = (of) => rounds.map(of).sort((a, b) => a - b)[Math.floor(ROUNDS / 2)];
  console.table(
    Object.fromEntries(
      Object.keys(proxies).map((name) => [
        name,
        {
          'requests a second': Math.round(middle((one) => one[name].perSecond)),
          'beside http-proxy': `${middle((one) => one[name].perSecond / one['http-proxy'].perSecond).toFixed(2)} x`,
          'p50 (ms)': middle((one) => one[name].p50).toFixed(2),
          'p99 (ms)': middle((one) => one[name].p99).toFixed(2),
          'added at p50 (ms)': middle(
            (one) => one[name].p50 - one['the website itself'].p50,
          ).toFixed(2),
        },
      ]),
    ),
  );

  console.table(await hiding(gateways['hiding']));
  console.log(
    'Aim: nobody can tell a hidden page by the time; |z| is below 2 for most, by chance.',
  );

  const before = memoryOf(service.pid);
  let version = 1;
  let last = Promise.resolve();
  const makeRelease = async () => {
    const body = `${text}# ${version}\n`;
    const put = await fetch(`${at}/draft`, {
      method: 'PUT',
      headers: { ...yaml, 'If-Match': `"${version}"` },
      body,
    });
    version = (await put.json()).version;
    await release('merrow-point', version);
  };
  const releasing = setInterval(() => (last = last.then(makeRelease)), 1000);
  const half = await load(gateway, LONG / 2);
  const halfway = memoryOf(service.pid);
  const rest = await load(gateway, LONG / 2);
  clearInterval(releasing);
  await last;
  console.table({
    [`requests in ${LONG} s with a release every second`]: { value: half.count + rest.count },
    'not answered with 200': { value: half.failed + rest.failed },
    'memory before, halfway, after (MB)': {
      value: [before, halfway, memoryOf(service.pid)].join(', '),
    },
  });
  console.log('Aim: at least as many requests as http-proxy, memory flat, nothing dropped.');
} finally {
  children.forEach((child) => child.kill());
  rmSync(folder, { recursive: true, force: true });
}

/** Asks as fast as answers come, from many clients at once. */
async function load(address, seconds) {
  const pool = new Pool(address, { connections: CLIENTS });
  const took = [];
  let failed = 0;
  const until = performance.now() + seconds * 1000;
  await Promise.all(
    Array.from({ length: CLIENTS }, async () => {
      while (performance.now() < until) {
        const begin = performance.now();
        const { statusCode, body } = await pool.request({ path: PATH, method: 'GET' });
        await body.dump();
        took.push(performance.now() - begin);
        if (statusCode !== 200) failed++;
      }
    }),
  );
  await pool.close();
  took.sort((a, b) => a - b);
  return {
    count: took.length,
    failed,
    perSecond: took.length / seconds,
    p50: took[Math.floor(took.length / 2)],
    p99: took[Math.floor(took.length * 0.99)],
  };
}

/** Compares the response times of a hidden page and its alias with a missing page: ratio of medians and rank-sum test. */
async function hiding(address) {
  const rows = {};
  const pool = new Pool(address, { connections: 1 });
  for (const method of ['GET', 'HEAD', 'POST', 'PUT', 'OPTIONS'])
    for (const path of ['/rooms/hidden', '/rooms/before']) {
      const took = { [path]: [], '/rooms/nowhere': [] };
      for (let round = 0; round < HIDDEN_ROUNDS + 100; round++)
        for (const asked of round % 2 === 0 ? [path, '/rooms/nowhere'] : ['/rooms/nowhere', path]) {
          const begin = performance.now();
          const { statusCode, body } = await pool.request({
            path: asked,
            method,
            headers: { host: 'hiding.example' },
            ...(method === 'POST' || method === 'PUT' ? { body: '{"a":1}' } : {}),
          });
          await body.dump();
          if (statusCode !== 200) throw new Error(`${method} ${asked} ends with ${statusCode}.`);
          if (round >= 100) took[asked].push(performance.now() - begin);
        }
      rows[`${method} ${path === '/rooms/hidden' ? 'page' : 'alias'}`] = {
        'hidden / nothing': `${(median(took[path]) / median(took['/rooms/nowhere'])).toFixed(3)} x`,
        z: rankSum(took[path], took['/rooms/nowhere']).toFixed(1),
      };
    }
  await pool.close();
  return rows;
}

function median(of) {
  return [...of].sort((a, b) => a - b)[Math.floor(of.length / 2)];
}

/** The z score of the rank-sum test. */
function rankSum(one, other) {
  const all = [...one.map((time) => [time, 1]), ...other.map((time) => [time, 0])];
  all.sort(([a], [b]) => a - b);
  const ranks = all.reduce((sum, [, isOne], i) => sum + isOne * (i + 1), 0);
  const [n, m] = [one.length, other.length];
  return (ranks - (n * (n + m + 1)) / 2) / Math.sqrt((n * m * (n + m + 1)) / 12);
}

function memoryOf(pid) {
  const [, kilobytes] = /^VmRSS:\s+(\d+)/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'));
  return Math.round(Number(kilobytes) / 1024);
}
