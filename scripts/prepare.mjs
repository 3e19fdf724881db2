/**
 * Installs and builds what has changed since the last time, and says what it is doing. Uses nothing
 * that is not part of Node.js, for on a fresh machine there is nothing else yet.
 */
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';

export const ROOT = fileURLToPath(new URL('..', import.meta.url));
const INSTALLED = join(ROOT, 'node_modules', '.kleidon-installed');
const BUILT = join(ROOT, 'packages', '.kleidon-built');

/** Runs a command in the project and ends this one where it fails. */
export function run(command, args, options = {}) {
  const { status, error } = spawnSync(command, args, { cwd: ROOT, stdio: 'inherit', ...options });
  if (error || status !== 0) {
    console.error(`${[command, ...args].join(' ')} failed${error ? `: ${error.message}` : '.'}`);
    process.exit(1);
  }
}

/** Brings dependencies and build up to date; does nothing where they are. */
export function prepare() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19)) {
    console.error(`Kleidon needs Node.js 20.19 or newer; this is ${process.version}.`);
    process.exit(1);
  }
  step(
    INSTALLED,
    hashOf([join(ROOT, 'package-lock.json')]),
    'Installing dependencies; compiling SQLite takes about two minutes …',
    () => run('npm', ['ci', '--no-fund', '--no-audit', '--loglevel=error']),
  );
  const sources = ['core', 'api', 'client', 'probe', 'service', 'cli', 'console'].flatMap((name) =>
    filesIn(join(ROOT, 'packages', name)),
  );
  const inputs = [
    ...sources,
    join(ROOT, 'package-lock.json'),
    join(ROOT, 'tsconfig.base.json'),
    join(ROOT, 'tsconfig.json'),
    join(ROOT, 'scripts', 'api-types.mjs'),
  ];
  step(BUILT, hashOf(inputs), 'Building …', () => {
    run(process.execPath, [join(ROOT, 'scripts', 'api-types.mjs')]);
    run(join(ROOT, 'node_modules', '.bin', 'tsc'), ['-b']);
    for (const name of ['service', 'cli', 'console'])
      run(join(ROOT, 'node_modules', '.bin', 'vite'), ['build', '--logLevel', 'warn'], {
        cwd: join(ROOT, 'packages', name),
      });
  });
}

function step(stamp, wanted, message, work) {
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return;
  console.error(message);
  work();
  writeFileSync(stamp, wanted);
}

function hashOf(files) {
  const hash = createHash('sha256');
  // By where they are in the project: a copy of it elsewhere is as far as this one.
  for (const file of files.sort()) hash.update(relative(ROOT, file)).update(readFileSync(file));
  return hash.digest('hex');
}

function filesIn(folder) {
  return readdirSync(folder).flatMap((name) => {
    if (
      ['node_modules', 'dist', 'test', 'generated.ts'].includes(name) ||
      name.endsWith('.tsbuildinfo')
    )
      return [];
    const path = join(folder, name);
    return statSync(path).isDirectory() ? filesIn(path) : [path];
  });
}

if (process.argv[1] === fileURLToPath(import.meta.url)) prepare();
