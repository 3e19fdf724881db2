import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import pino from 'pino';
import { poolOf, type Pool, type PoolOptions } from '../src/analysis/pool.ts';
import { Problem } from '../src/calls/problem.ts';
import { temporaryFolder } from './running.ts';

/** Answers with its thread and the time; what it is asked may keep it busy, waiting, or hungry. */
const PROGRAM = `
import { readlinkSync } from 'node:fs';
import { basename } from 'node:path';
import { parentPort, threadId } from 'node:worker_threads';
const kept = [];
parentPort.on('message', async ({ busy = 0, waits = 0, eats = 0, fails = null, until = null }) => {
  const end = performance.now() + busy;
  while (performance.now() < end);
  if (until) Atomics.wait(new Int32Array(until), 0, 0);
  await new Promise((resolve) => setTimeout(resolve, waits));
  for (let i = 0; i < eats; i++) kept.push(Array.from({ length: 125_000 }, Math.random));
  if (fails === 'problem') parentPort.postMessage({ is: 'problem', code: 'fix-refused', message: 'No.', more: { a: 1 } });
  else if (fails === 'error') parentPort.postMessage({ is: 'failed', message: 'Broken', stack: 'at x' });
  else if (fails === 'exit') process.exit(1);
  else parentPort.postMessage({ is: 'done', value: threadId });
});
parentPort.postMessage({ thread: basename(readlinkSync('/proc/thread-self')) });
`;

const folder = temporaryFolder();
const program = join(folder.path, 'program.mjs');
writeFileSync(program, PROGRAM);
const open: Pool[] = [];
afterEach(() => Promise.all(open.splice(0).map((pool) => pool.close())));
afterAll(() => folder.remove());

const poolWith = (options: Partial<PoolOptions> = {}): Pool => {
  const pool = poolOf({
    program: pathToFileURL(program),
    workerData: null,
    threads: 3,
    limit: 20_000,
    memory: 512,
    mostWaiting: { ofSite: 100, ofAll: 1_000 },
    log: pino({ level: 'silent' }),
    ...options,
  });
  open.push(pool);
  return pool;
};
const codeOf = (result: Promise<unknown>): Promise<unknown> =>
  result.then(
    () => 'done',
    (error: unknown) => (error instanceof Problem ? error.code : (error as Error).message),
  );
/** A job that goes on until it is let go. */
const held = () => {
  const until = new SharedArrayBuffer(4);
  return {
    job: { until },
    letGo: () => {
      Atomics.store(new Int32Array(until), 0, 1);
      Atomics.notify(new Int32Array(until), 0);
    },
  };
};

test('the jobs of one site follow each other on one thread, and another site has one of its own', async () => {
  const pool = poolWith();
  const first = await Promise.all([1, 2, 3].map(() => pool.run('a', { busy: 20 })));
  expect(new Set(first).size).toBe(1);
  const [again, other] = await Promise.all([pool.run('a', { busy: 20 }), pool.run('b', {})]);
  expect(again).toBe(first[0]);
  expect(other).not.toBe(again);
});

test('a short job passes a long one of its site, and no site has all threads', async () => {
  const pool = poolWith();
  const holds = [held(), held(), held()];
  const first = pool.run('a', holds[0]!.job);
  const short = await pool.run('a', {});
  const rest = [1, 2].map((i) => pool.run('a', holds[i]!.job));
  // Two of the site's jobs have a thread each, and the third one waits for them.
  const other = await pool.run('b', {});
  for (const { letGo } of holds) letGo();
  const threads = await Promise.all([first, ...rest]);
  expect(short).not.toBe(threads[0]);
  expect(threads).not.toContain(other);
});

test('sites take turns, however many jobs of one of them wait', async () => {
  const pool = poolWith({ threads: 1 });
  const order: string[] = [];
  const jobs = ['a', 'a', 'a', 'a', 'b', 'c', 'b'].map((site) =>
    pool.run(site, {}).then(() => order.push(site)),
  );
  await Promise.all(jobs);
  expect(order).toEqual(['a', 'a', 'b', 'c', 'a', 'b', 'a']);
});

test('a job has its CPU time, however long other programs keep it waiting', async () => {
  const pool = poolWith({ limit: 300 });
  expect(await codeOf(pool.run('a', { waits: 600 }))).toBe('done');
  expect(await codeOf(pool.run('a', { busy: 5_000 }))).toBe('too-slow');
  expect(await codeOf(pool.run('a', { waits: 60_000 }))).toBe('too-slow');
  expect(await codeOf(pool.run('a', {}))).toBe('done');
});

test('a job that needs too much memory is given up, and so is one that ends its thread', async () => {
  const pool = poolWith({ memory: 64 });
  expect(await codeOf(pool.run('a', { eats: 1_000 }))).toBe('too-slow');
  expect(await codeOf(pool.run('a', { fails: 'exit' }))).toBe('A thread of the analyses ended.');
  expect(await codeOf(pool.run('a', { fails: 'error' }))).toBe('Broken');
  expect(await codeOf(pool.run('a', { fails: 'problem' }))).toBe('fix-refused');
  expect(await codeOf(pool.run('a', {}))).toBe('done');
});

test('what nobody waits for any more is not begun, and given up where it takes long', async () => {
  const pool = poolWith({ threads: 1 });
  const leaving = new AbortController();
  const began = Date.now();
  const running = codeOf(pool.run('a', { busy: 15_000 }, leaving.signal));
  const waiting = codeOf(pool.run('a', { busy: 15_000 }, leaving.signal));
  const next = codeOf(pool.run('b', {}));
  leaving.abort();
  expect(await Promise.all([running, waiting, next])).toEqual(['too-slow', 'too-slow', 'done']);
  expect(Date.now() - began).toBeLessThan(10_000);
});

test('no more than so many jobs wait', async () => {
  const pool = poolWith({ threads: 1 });
  const hold = held();
  const first = pool.run('a', hold.job);
  const rest = Array.from({ length: 101 }, () => codeOf(pool.run('a', {})));
  const other = codeOf(pool.run('b', {}));
  expect(await Promise.race(rest)).toBe('too-busy');
  hold.letGo();
  await first;
  const codes = await Promise.all(rest);
  expect(codes.filter((code) => code === 'done')).toHaveLength(100);
  expect(await other).toBe('done');
});
