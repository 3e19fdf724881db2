import { once } from 'node:events';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import Database from 'better-sqlite3';
import express from 'express';
import pino from 'pino';
import { answerProblems } from '../src/api/problem.ts';

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
