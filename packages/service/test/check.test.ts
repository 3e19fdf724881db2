import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout } from 'node:timers/promises';
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

test('what a client asked for is given up when the client leaves', async () => {
  const folder = temporaryFolder();
  const settings = join(folder.path, 'settings.yaml');
  writeFileSync(settings, 'check-timeout: 600\n');
  const service = await run(folder.path, '--settings', settings);
  const text = `${site(5000)}roles: { a: A }\n`;
  const added = await fetch(`${service.address}/api/sites?id=large`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/yaml' },
    body: text,
  });
  expect(added.status).toBe(201);
  // Each renaming reads the file again: all of them take longer than the test may.
  const edits = Array.from({ length: 1000 }, (_, i) => {
    const [name, to] = i % 2 === 0 ? ['a', 'b'] : ['b', 'a'];
    return { do: 'rename', section: 'roles', name, to };
  });
  const leaving = new AbortController();
  // As many as keep all threads that one site may have.
  const effects = Array.from({ length: 4 }, () =>
    fetch(`${service.address}/api/sites/large/effect`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ edits }),
      signal: leaving.signal,
    }),
  );
  // No event tells that a thread has begun; its CPU time does.
  const ticks = (): number =>
    Number(readFileSync(`/proc/${service.process.pid}/stat`, 'utf8').split(' ')[13]);
  const before = ticks();
  while (ticks() - before < 300) await setTimeout(50);
  leaving.abort();
  await Promise.all(effects.map((effect) => expect(effect).rejects.toThrow()));
  expect((await fetch(`${service.address}/api/sites/large/grid`)).status).toBe(200);
  await service.end();
  folder.remove();
});
