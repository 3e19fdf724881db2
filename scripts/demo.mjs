/**
 * The main job on the sample site: starts its website, a shop, a test identity provider and the
 * service with a gateway, adds and releases the sample site the first time, prints its reach grid and
 * where everything is, and runs until it is stopped.
 */
import { spawn, spawnSync } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { prepare, ROOT } from './prepare.mjs';

prepare();

const KLEIDON = join(ROOT, 'packages', 'cli', 'bin', 'kleidon.js');
const SAMPLE = join(ROOT, 'demo', 'merrow-point.site.yaml');
const SITE = 'merrow-point';
const DATA = process.env.KLEIDON_DEMO_DATA ?? join(ROOT, '.demo');
const GATEWAY_PORT = 4791;
const SHOP_PORT = 4794;
const SHOP_SECRET = `whsec_${Buffer.alloc(32, 'demo').toString('base64')}`;

const running = [];
let isStopping = false;

/** Starts a program, and waits for the line in which it says where it is. */
function start(said, args) {
  const child = spawn(process.execPath, args, { cwd: ROOT, stdio: ['ignore', 'pipe', 'inherit'] });
  running.push(child);
  child.on('exit', (code, signal) => stop(signal && isStopping ? 0 : (code ?? 1)));
  return new Promise((resolve) => {
    let text = '';
    child.stdout.on('data', (chunk) => {
      text += chunk;
      const found = said.exec(text);
      if (!found) return;
      child.stdout.removeAllListeners('data');
      child.stdout.resume();
      resolve(found[1]);
    });
  });
}

/** Where one of them ends, the others have nothing to do any more. */
function stop(code) {
  if (isStopping) return;
  isStopping = true;
  process.exitCode = code;
  for (const child of running) child.kill('SIGTERM');
}
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => stop(0));

/** A port of loopback that nobody has: this one, or any. */
function freePort(wanted) {
  return new Promise((resolve) => {
    const server = createServer();
    server.on('error', () => resolve(freePort(0)));
    server.listen(wanted, '127.0.0.1', () => {
      const { port } = server.address();
      server.close(() => resolve(port));
    });
  });
}

const gateway = `http://127.0.0.1:${await freePort(GATEWAY_PORT)}`;
const shop = `http://127.0.0.1:${await freePort(SHOP_PORT)}`;
const website = await start(/^The website is at (\S+)$/m, [
  join(ROOT, 'demo', 'website', 'server.mjs'),
  ...['--port', '0', '--shop', shop],
]);
const identity = await start(/^The test provider is at (\S+)$/m, [
  '--no-warnings',
  join(ROOT, 'demo', 'identity.mjs'),
  ...['--port', '0', '--site', SAMPLE, '--back', gateway],
]);
mkdirSync(DATA, { recursive: true });
const settings = join(DATA, 'kleidon.yaml');
writeFileSync(
  settings,
  `gateways:
  - site: ${SITE}
    port: ${new URL(gateway).port}
    origin: ${website}
    sign-in:
      provider: ${identity}
      client: merrow-point
      secret: only-for-the-demo
      claims: { id: sub, name: name, email: email, roles: roles, groups: groups, bought: bought }
      test-provider: yes # lets pages be opened as any visitor
shops:
  - name: observatory
    site: ${SITE}
    secret: ${SHOP_SECRET}
probes:
  - site: ${SITE}
    every: 1h
    pause: 0
`,
);
const address = await start(/^Kleidon is at (\S+)$/m, [
  KLEIDON,
  ...['serve', '--data', DATA, '--settings', settings, '--log-level', 'warn'],
  ...process.argv.slice(2),
]);

await start(/^The shop is at (\S+)$/m, [
  join(ROOT, 'demo', 'shop', 'server.mjs'),
  ...['--port', new URL(shop).port, '--kleidon', address, '--gateway', gateway],
  ...['--secret', SHOP_SECRET, '--data', join(DATA, 'shop')],
]);

const kleidon = (...args) =>
  spawnSync(process.execPath, [KLEIDON, ...args, '--service', address], {
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'inherit'],
  });
const { stdout } = kleidon('sites', 'list', '--json');
if (!JSON.parse(stdout || '{"sites":[]}').sites.some(({ id }) => id === SITE)) {
  kleidon('sites', 'add', SAMPLE, '--id', SITE);
  kleidon('release', '--site', SITE, '--note', 'The sample site, unchanged');
}
// Run with this terminal, so that the grid fits it.
spawnSync(process.execPath, [KLEIDON, 'grid', '--site', SITE, '--service', address], {
  stdio: ['ignore', 'inherit', 'inherit'],
});
console.log(`
The console is at ${address}/sites/${SITE}
The website, as visitors reach it through the gateway, is at ${gateway}
The shop is at ${shop}, with an outbox and a page for its owner
Try in another terminal:
  npx kleidon visit /crew/rota --as gale --service ${address} --site ${SITE}
  npx kleidon probe ${gateway} --service ${address} --site ${SITE}
Stop with Ctrl-C.`);
