/** Everything that must hold before a change lands: the tests, then each check. */
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { prepare, ROOT } from './prepare.mjs';

prepare();

const bin = (name) => join(ROOT, 'node_modules', '.bin', name);
const CHECKS = [
  ['types of the packages', bin('tsc'), ['-b']],
  ['types of the console', bin('tsc'), ['-p', 'packages/console']],
  ['types of the tests', bin('tsc'), ['-p', 'tsconfig.jest.json']],
  ['lint', bin('eslint'), ['.', '--max-warnings', '0']],
  ['format', bin('prettier'), ['--check', '--log-level', 'warn', '.']],
  ['layering', bin('depcruise'), ['--config', '.dependency-cruiser.cjs', 'packages']],
  ['dead code', bin('knip'), []],
];

const tests = spawnSync('npm', ['test'], {
  cwd: ROOT,
  encoding: 'utf8',
  stdio: ['ignore', 'pipe', 'inherit'],
});
const [, passedTests = '0', failedTests = '1'] =
  /^(\d+) passed, (\d+) failed$/m.exec(tests.stdout) ?? [];
let passed = Number(passedTests);
let failed = Number(failedTests);
console.log(`tests: ${passed} passed, ${failed} failed`);

for (const [name, command, args] of CHECKS) {
  const { status } = spawnSync(command, args, {
    cwd: ROOT,
    stdio: ['ignore', 'inherit', 'inherit'],
  });
  console.log(`check, ${name}: ${status === 0 ? 'passed' : 'FAILED'}`);
  if (status === 0) passed++;
  else failed++;
}
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
