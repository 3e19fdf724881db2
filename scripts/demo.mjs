/**
 * The main job on the sample site: starts the service with data of its own, adds the sample site the
 * first time, prints its reach grid and where the console is, and runs until it is stopped.
 */
import { spawn, spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { prepare, ROOT } from './prepare.mjs';

prepare();

const KLEIDON = join(ROOT, 'packages', 'cli', 'bin', 'kleidon.js');
const SAMPLE = join(ROOT, 'demo', 'merrow-point.site.yaml');
const SITE = 'merrow-point';
const DATA = process.env.KLEIDON_DEMO_DATA ?? join(ROOT, '.demo');

const options = process.argv.slice(2);
const service = spawn(
  process.execPath,
  [KLEIDON, 'serve', '--data', DATA, '--log-level', 'warn', ...options],
  {
    stdio: ['ignore', 'pipe', 'inherit'],
  },
);

const kleidon = (...args) => {
  const { status, stdout } = spawnSync(process.execPath, [KLEIDON, ...args], {
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  return { status, stdout };
};

let said = '';
service.stdout.on('data', (chunk) => {
  said += chunk;
  const address = /^Kleidon is at (\S+)$/m.exec(said)?.[1];
  if (!address) return;
  service.stdout.removeAllListeners('data');
  show(address);
});

function show(address) {
  const { stdout } = kleidon('sites', 'list', '--json', '--service', address);
  const isThere = JSON.parse(stdout || '{"sites":[]}').sites.some(({ id }) => id === SITE);
  if (!isThere) {
    kleidon('sites', 'add', SAMPLE, '--id', SITE, '--service', address);
    kleidon(
      'release',
      '--site',
      SITE,
      '--note',
      'The sample site as it comes',
      '--service',
      address,
    );
  }
  // Run with this terminal, so that the grid fits it.
  spawnSync(process.execPath, [KLEIDON, 'grid', '--site', SITE, '--service', address], {
    stdio: ['ignore', 'inherit', 'inherit'],
  });
  console.log(`
The console is at ${address}/sites/${SITE}
Try in another terminal:
  npx kleidon visit /crew/rota --as gale --service ${address} --site ${SITE}
  npx kleidon visit /crew%2Frota --as gale --service ${address} --site ${SITE}
Stop with Ctrl-C.`);
}

for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => service.kill('SIGTERM'));
service.on('exit', (code, signal) => process.exit(signal ? 1 : code));
