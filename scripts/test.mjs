/**
 * All tests. Builds first, brings Debian's Chromium where it is missing, and ends with one line of
 * how many passed and failed.
 */
import { spawnSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { prepare, ROOT, run } from './prepare.mjs';

prepare();

if (!existsSync(process.env.CHROMIUM ?? '/usr/bin/chromium-headless-shell')) {
  console.error("Installing Debian's Chromium for the tests of the console …");
  run('apt-get', ['update', '-qq']);
  run('apt-get', [
    'install',
    '-y',
    '-qq',
    '--no-install-recommends',
    'chromium-headless-shell',
    'fonts-dejavu-core',
  ]);
}

// The crawl is tried on a real manual; where it can't be had, the test makes a tree of the same size.
if (!readdirSync('/usr/share/doc').some((name) => /^postgresql-doc-\d+$/.test(name))) {
  console.error('Installing a manual of over 1,000 pages for the test of the crawl …');
  spawnSync('apt-get', ['install', '-y', '-qq', '--no-install-recommends', 'postgresql-doc'], {
    stdio: ['ignore', 'ignore', 'inherit'],
  });
}

const report = join(tmpdir(), `kleidon-tests-${process.pid}.json`);
const { status } = spawnSync(
  process.execPath,
  [
    '--experimental-vm-modules',
    '--no-warnings',
    join(ROOT, 'node_modules', 'jest', 'bin', 'jest.js'),
    '--json',
    `--outputFile=${report}`,
    ...process.argv.slice(2),
  ],
  { cwd: ROOT, stdio: ['ignore', 'ignore', 'inherit'] },
);
if (!existsSync(report)) {
  console.log('0 passed, 1 failed');
  process.exit(1);
}
const { numPassedTests, numFailedTests, numRuntimeErrorTestSuites } = JSON.parse(
  readFileSync(report, 'utf8'),
);
rmSync(report);
console.log(`${numPassedTests} passed, ${numFailedTests + numRuntimeErrorTestSuites} failed`);
process.exit(status ?? 1);
