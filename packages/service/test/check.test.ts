import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import type { model } from '@kleidon/core';
import { alone, keepStates } from '../src/check/states.ts';
import { run, temporaryFolder } from './running.ts';

const site = (pages: number): string =>
  `kleidon: 1\nsite: { name: Large, address: https://large.example }\npages:\n  /: Home\n${Array.from({ length: pages }, (_, i) => `  /p${i}: P\n`).join('')}`;

test('a site file that can not be checked in time is not saved, and the service goes on', async () => {
  const folder = temporaryFolder();
  const settings = join(folder.path, 'settings.yaml');
  writeFileSync(settings, 'check-timeout: 1\n');
  const service = await run(folder.path, '--settings', settings);
  const api = `${service.address}/api/sites`;
  const send = (path: string, method: string, body: string, type = 'application/yaml') =>
    fetch(api + path, { method, headers: { 'Content-Type': type, 'If-Match': '"1"' }, body });
  expect((await send('?id=large', 'POST', site(10))).status).toBe(201);
  const text = site(150_000);
  const [slow, meanwhile] = await Promise.all([
    send('/large/draft', 'PUT', text),
    fetch(api).then((answer) => answer.status),
  ]);
  expect([slow.status, meanwhile]).toEqual([422, 200]);
  expect(await slow.json()).toMatchObject({ type: '/api/problems/check-too-slow' });
  expect((await send('?id=other', 'POST', text)).status).toBe(422);
  expect(await (await fetch(api)).json()).toMatchObject({
    sites: [{ id: 'large', name: 'Large', draft: { version: 1, errors: 0 } }],
  });
  // So is a patch: each of its operations needs the file read again.
  const patch = Array.from({ length: 2000 }, (_, i) => ({
    op: 'copy',
    from: '/pages/~1',
    path: `/${i % 2 === 0 ? 'pages' : 'roles'}/~1copy${i}`,
  }));
  const [slowPatch, still] = await Promise.all([
    send('/large/draft', 'PATCH', JSON.stringify(patch), 'application/json-patch+json'),
    fetch(api).then((answer) => answer.status),
  ]);
  expect([slowPatch.status, still]).toEqual([422, 200]);
  // The next check is none the worse for it.
  expect((await send('/large/draft', 'PUT', site(12))).status).toBe(200);
  expect(await service.end()).toBe(0);
  folder.remove();
});

test('sites are listed by what was found when they were saved, also those of an earlier version', async () => {
  const folder = temporaryFolder();
  const first = await run(folder.path);
  const add = (at: string, id: string, text: string) =>
    fetch(`${at}/api/sites?id=${id}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/yaml' },
      body: text,
    });
  await add(first.address, 'one', site(1));
  await add(first.address, 'two', 'kleidon: 1\n');
  await first.end();
  const db = new Database(join(folder.path, 'kleidon.sqlite'));
  const kept = db.prepare('select site_id, name, errors from draft order by site_id').all();
  expect(kept).toEqual([
    { site_id: 'one', name: 'Large', errors: 0 },
    { site_id: 'two', name: null, errors: expect.any(Number) as number },
  ]);
  db.exec('update draft set name = null, errors = null');
  db.close();
  const second = await run(folder.path);
  const list = (await (await fetch(`${second.address}/api/sites`)).json()) as {
    sites: { name: string; draft: { errors: number } }[];
  };
  expect(list.sites.map(({ name, draft }) => [name, draft.errors > 0])).toEqual([
    ['Large', false],
    ['two', true],
  ]);
  await second.end();
  folder.remove();
});

/** One that no check would make, so that it is known where it came from. */
const A_FINDING = { code: 'redirect-dead-end' } as model.Finding;

test('what was found is kept for the same file and minute, and looked for anew after that', async () => {
  let checks = 0;
  const states = keepStates({
    check: ({ text }) => {
      checks++;
      const found = { findings: [A_FINDING], guarantees: [], visits: [] };
      return Promise.resolve({ text, name: 'S', errors: [], says: [], ...found });
    },
  });
  const source = alone(
    'kleidon: 1\nsite: { name: S, address: https://s.example }\npages: { /: Home }\nredirects: [{ from: /a, to: /gone }]\n',
  );
  const findings: never[] = [];
  states.keep(source, 'x', 0, { findings, guarantees: [], visits: [] });
  expect((await states.check(source, 'x', 59_999))!.findings).toBe(findings);
  expect(checks).toBe(0);
  // Several who ask at once get one check.
  const asked = await Promise.all([60_000, 60_001].map((at) => states.check(source, 'x', at)));
  for (const check of asked) expect(check!.findings).toHaveLength(1);
  expect(checks).toBe(1);
  expect((await states.check(source, 'y', 0))!.findings).toHaveLength(1);
  const broken = (await states.check(alone('kleidon: 1\n'), 'x', 0))!;
  expect([broken.errors.length > 0, broken.findings, checks]).toEqual([true, [], 2]);
});

test('a check that was given up is no answer, and the next has the same chance', async () => {
  const states = keepStates({ check: () => Promise.resolve(null) });
  const source = alone(
    'kleidon: 1\nsite: { name: S, address: https://s.example }\npages: { /: Home }\n',
  );
  expect(await states.check(source, 'x', 0)).toBeNull();
  expect(await states.check(source, 'x', 0)).toBeNull();
});
