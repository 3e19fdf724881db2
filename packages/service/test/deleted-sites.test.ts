import { existsSync, statSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { call, called, operations } from './described.ts';
import { KLEIDON, run, temporaryFolder } from './running.ts';
import { spawnSync } from 'node:child_process';

const SITE = `kleidon: 1
site: { name: Gone, address: https://gone.example }
pages: { /: Home }
redirect-lists: [old.csv]
`;

describe('a site that is deleted', () => {
  const folder = temporaryFolder();
  afterAll(folder.remove);

  test('is as good as none, can be restored for 30 days, and is then forgotten', async () => {
    const service = await run(folder.path);
    const ask = (path: string, init?: RequestInit) => call(service.address, path, init);
    const status = async (path: string, init?: RequestInit) => (await ask(path, init)).status;
    const add = () =>
      status('/api/sites?id=gone', {
        method: 'POST',
        headers: { 'Content-Type': 'application/yaml' },
        body: SITE,
      });
    expect(await add()).toBe(201);
    const put = await ask('/api/sites/gone/lists/old.csv', {
      method: 'PUT',
      headers: { 'Content-Type': 'text/csv', 'If-Match': '"1"' },
      body: 'from,to\n/old,/\n',
    });
    expect(put.status).toBe(200);
    const release = await ask('/api/sites/gone/releases', {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', 'If-Match': '"2"' },
      body: '{"note":"first"}',
    });
    expect(release.status).toBe(201);
    expect(await status('/api/sites/gone', { method: 'DELETE' })).toBe(400);
    expect(await status('/api/sites/gone?confirm=other', { method: 'DELETE' })).toBe(400);
    expect(await status('/api/sites/gone?confirm=gone', { method: 'DELETE' })).toBe(204);
    expect(await status('/api/sites/gone?confirm=gone', { method: 'DELETE' })).toBe(404);
    for (const path of ['', '/draft', '/releases', '/grid?state=live', '/lists'])
      expect([path, await status(`/api/sites/gone${path}`)]).toEqual([path, 404]);
    expect(await (await ask('/api/sites')).json()).toEqual({ sites: [] });
    expect(await (await ask('/api/deleted-sites')).json()).toMatchObject({
      sites: [{ id: 'gone' }],
    });
    expect(await add()).toBe(409);
    expect(await status('/api/deleted-sites/none/restore', { method: 'POST' })).toBe(404);
    expect(await status('/api/deleted-sites/gone/restore', { method: 'POST' })).toBe(200);
    expect(await (await ask('/api/sites/gone/releases')).json()).toMatchObject({
      releases: [{ number: 1, note: 'first' }],
    });
    const scheduled = await ask('/api/sites/gone/scheduled-release', {
      method: 'PUT',
      headers: { 'Content-Type': 'application/json', 'If-Match': '"2"' },
      body: '{"note":"spring","at":"2090-01-01"}',
    });
    expect(scheduled.status).toBe(201);
    const restoring = { method: 'POST' };
    const remove = () => ask('/api/sites/gone?confirm=gone', { method: 'DELETE' });
    await remove();
    expect(await (await ask('/api/deleted-sites/gone/restore', restoring)).json()).toMatchObject({
      scheduled: { note: 'spring' },
      cancelled: null,
    });
    await remove();
    expect(operations('deletion').filter((one) => !called.has(one))).toEqual([]);
    await service.end();

    const file = join(folder.path, 'kleidon.sqlite');
    const change = (statement: string): void => {
      const db = new Database(file);
      db.exec(statement);
      db.close();
    };
    const count = (table: string): number => {
      const db = new Database(file, { readonly: true });
      const row = db.prepare(`select count(*) as count from ${table}`).get() as { count: number };
      db.close();
      return row.count;
    };
    change("update scheduled_release set takes_effect_at = '2026-01-01T00:00:00.000Z'");
    const later = await run(folder.path);
    const at = (path: string, init?: RequestInit) => call(later.address, path, init);
    expect(await (await at('/api/deleted-sites/gone/restore', restoring)).json()).toMatchObject({
      scheduled: null,
      cancelled: { note: 'spring' },
    });
    expect(await (await at('/api/sites/gone/scheduled-release')).json()).toEqual({
      scheduled: null,
    });
    expect(await (await at('/api/sites/gone/releases')).json()).toMatchObject({
      releases: [{ number: 1 }],
    });
    await at('/api/sites/gone?confirm=gone', { method: 'DELETE' });
    await later.end();

    const longAgo = new Date(Date.now() - 29 * 86_400_000).toISOString();
    change(`update site set deleted_at = '${longAgo}'`);
    await (await run(folder.path)).end();
    expect(count('release')).toBe(1);
    change(`update site set deleted_at = '2026-01-01T00:00:00.000Z'`);
    await (await run(folder.path)).end();
    const tables = ['site', 'draft', 'release', 'release_list', 'draft_list', 'list_text'];
    expect(tables.map(count)).toEqual(tables.map(() => 0));
  });
});

test('what a service keeps is for its owner alone, and for one service at a time', async () => {
  const folder = temporaryFolder();
  const data = join(folder.path, 'data');
  const service = await run(data);
  const modeOf = (name: string): string => (statSync(join(data, name)).mode & 0o777).toString(8);
  expect(modeOf('')).toBe('700');
  for (const name of [
    'kleidon.sqlite',
    'kleidon.sqlite-wal',
    'lock.sqlite',
    'gateway-key.json',
    'sign-in-key',
  ])
    expect([name, existsSync(join(data, name)) ? modeOf(name) : '600']).toEqual([name, '600']);
  const second = spawnSync(process.execPath, [KLEIDON, 'serve', '--data', data, '--port', '0'], {
    encoding: 'utf8',
    timeout: 20_000,
  });
  expect(second.status).toBe(2);
  expect(second.stderr).toContain(`another service works on ${data}`);
  // However the first one ends, the folder is free then.
  await service.end('SIGKILL');
  const third = await run(data);
  expect(await third.end()).toBe(0);
  folder.remove();
});
