import { once } from 'node:events';
import { createServer } from 'node:http';
import { connect, type AddressInfo, type Socket } from 'node:net';
import Database from 'better-sqlite3';
import express from 'express';
import pino from 'pino';
import { answerProblems } from '../src/api/problem.ts';
import { schedulerWith } from '../src/scheduler.ts';
import { agent } from './agent.ts';
import { call } from './described.ts';
import { temporaryFolder } from './running.ts';
import { sampleSite } from './sample.ts';

/** Fills a database that may have no more pages, so that SQLite says what it says of a full disk. */
function fill(): void {
  const database = new Database(':memory:');
  database.pragma('max_page_count = 3');
  database.exec('create table t (x blob)');
  for (;;) database.exec('insert into t values (zeroblob(4000))');
}

test('a full disk is said to be full, and logged', async () => {
  const lines: string[] = [];
  const app = express();
  app.get('/', fill);
  app.use(answerProblems(pino({}, { write: (line) => void lines.push(line) })));
  const server = createServer(app).listen(0, '127.0.0.1');
  try {
    await once(server, 'listening');
    const response = await fetch(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`);
    expect(response.status).toBe(507);
    expect(await response.json()).toMatchObject({
      type: '/api/problems/disk-full',
      remedy: expect.stringContaining('Make room') as string,
    });
    expect(lines.join('')).toContain('SQLITE_FULL');
  } finally {
    server.close();
  }
});

test('while another program holds the database, visitors are served and operators told', async () => {
  const folder = temporaryFolder();
  const site = await sampleSite(folder.path);
  const get = (path: string) => fetch(site.gateway + path, { redirect: 'manual' });
  const other = new Database(`${folder.path}/kleidon.sqlite`);
  try {
    const vik = agent();
    await vik.follow(`${site.gateway}/.kleidon/open-as?as=vik&to=/crew`);
    const longAgo = Date.now() - 1_800_000;
    other.prepare('update session set seen_at = ?').run(longAgo);
    other.exec('begin immediate');
    expect((await vik.ask(`${site.gateway}/crew`)).status).toBe(200);
    expect((await get('/about')).status).toBe(200);
    expect((await get('/no-such-page')).status).toBe(404);
    const save = (version: number) =>
      call(site.service().address, '/api/sites/merrow-point/draft', {
        method: 'PUT',
        headers: { 'Content-Type': 'application/yaml', 'If-Match': `"${version}"` },
        body: 'kleidon: 1\nsite: { name: M, address: https://m.example }\n',
      });
    const refused = await save(1);
    expect([refused.status, refused.headers.get('Retry-After')]).toEqual([503, '1']);
    expect(await refused.json()).toMatchObject({ type: '/api/problems/database-locked' });
    // Nobody new can be signed in; that is said, and the session stays.
    const late = await agent().follow(`${site.gateway}/.kleidon/open-as?as=rhoda&to=/crew`);
    expect(late.at(-1)!.status).toBe(503);
    other.exec('rollback');
    expect((await save(1)).status).toBe(200);
    const answer = await call(site.service().address, '/api/sites/merrow-point/sessions');
    const { sessions } = (await answer.json()) as { sessions: { seen: string }[] };
    expect(sessions.map(({ seen }) => Date.parse(seen) > longAgo)).toEqual([true]);
  } finally {
    other.close();
    await site.end();
    folder.remove();
  }
});

test('with 256 files that may be open, nobody can keep others out with connections', async () => {
  const folder = temporaryFolder();
  const site = await sampleSite(folder.path, { files: 256 });
  const { port } = new URL(site.gateway);
  const opened: Socket[] = [];
  try {
    let ended = 0;
    await new Promise<void>((done) => {
      for (let i = 0; i < 400; i++) {
        const address = { port: Number(port), host: '127.0.0.1', localAddress: '127.0.0.7' };
        const socket = connect(address).on('error', () => undefined);
        // All beyond a quarter of the files are refused.
        socket.once('close', () => ++ended === 400 - 64 && done());
        opened.push(socket);
      }
    });
    for (let i = 0; i < 20; i++) {
      expect((await fetch(`${site.gateway}/about`)).status).toBe(200);
      expect((await call(site.service().address, '/api/sites')).status).toBe(200);
    }
    expect(ended).toBe(400 - 64);
  } finally {
    opened.forEach((socket) => socket.destroy());
    await site.end();
    folder.remove();
  }
});

test('what fails again and again is tried again, and logged once', async () => {
  const lines: string[] = [];
  const scheduler = schedulerWith(pino({}, { write: (line) => void lines.push(line) }));
  let times = 0;
  await new Promise<void>((done) => {
    void scheduler.every(1, 'the purge', () => {
      times++;
      if (times === 3) done();
      throw new Error('database is locked');
    });
  });
  scheduler.close();
  expect(lines.map((line) => (JSON.parse(line) as { msg: string }).msg)).toEqual([
    'the purge failed; it is tried again',
  ]);
});
