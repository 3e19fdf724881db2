import { readFileSync } from 'node:fs';
import { request as httpRequest } from 'node:http';
import { once } from 'node:events';
import Database from 'better-sqlite3';
import { createClient, ServiceProblem } from '@kleidon/client';
import { run, SAMPLE, temporaryFolder } from './running.ts';

const sample = readFileSync(SAMPLE, 'utf8');

describe('what was acknowledged is kept', () => {
  test('when the service is killed during a hundred saves', async () => {
    const folder = temporaryFolder();
    const first = await run(folder.path);
    const client = createClient(first.address);
    await client.addSite(sample, 'merrow');
    let acknowledged = 1;
    try {
      for (let save = 1; save <= 100; save++) {
        const saving = client.saveDraft('merrow', save, `${sample}# save ${save}\n`);
        if (save === 60) void first.end('SIGKILL');
        acknowledged = (await saving).version;
      }
    } catch {
      // The save that the kill cut off was not acknowledged.
    }
    await first.end('SIGKILL');
    expect(acknowledged).toBeGreaterThanOrEqual(59);
    expect(acknowledged).toBeLessThan(101);

    const db = new Database(`${folder.path}/kleidon.sqlite`);
    expect(db.pragma('integrity_check', { simple: true })).toBe('ok');
    db.close();
    const second = await run(folder.path);
    const { version, text } = await createClient(second.address).draft('merrow');
    expect(version).toBeGreaterThanOrEqual(acknowledged);
    expect(text).toBe(`${sample}# save ${version - 1}\n`);
    expect(await second.end()).toBe(0);
    folder.remove();
  });

  test('when two editors save at once: one of them is told, and both texts are known', async () => {
    const folder = temporaryFolder();
    const service = await run(folder.path);
    const client = createClient(service.address);
    await client.addSite(sample, 'merrow');
    const results = await Promise.allSettled(
      Array.from({ length: 8 }, (_, editor) =>
        client.saveDraft('merrow', 1, `${sample}# editor ${editor}\n`),
      ),
    );
    const refused = results.filter((result) => result.status === 'rejected');
    expect(refused).toHaveLength(7);
    expect(
      refused.every(
        ({ reason }) => reason instanceof ServiceProblem && reason.code === 'draft-changed',
      ),
    ).toBe(true);
    const winner = results.findIndex(({ status }) => status === 'fulfilled');
    expect((await client.draft('merrow')).text).toBe(`${sample}# editor ${winner}\n`);
    await service.end();
    folder.remove();
  });
});

describe('stopping', () => {
  test('finishes the request under way, and takes no new one', async () => {
    const folder = temporaryFolder();
    const service = await run(folder.path);
    const { hostname, port } = new URL(service.address);
    const request = httpRequest({
      hostname,
      port,
      path: '/api/sites?id=late',
      method: 'POST',
      headers: {
        'Content-Type': 'application/yaml',
        'Content-Length': Buffer.byteLength(sample),
        Expect: '100-continue',
      },
    });
    request.flushHeaders();
    await once(request, 'continue');
    const ended = service.end('SIGTERM');
    await expect(
      fetch(`${service.address}/healthz`).then(() => fetch(`${service.address}/healthz`)),
    ).rejects.toThrow();
    request.end(sample);
    const [response] = (await once(request, 'response')) as [
      { statusCode: number; resume(): void },
    ];
    response.resume();
    expect(response.statusCode).toBe(201);
    expect(await ended).toBe(0);
    expect(service.log()).toContain('stopped');
    folder.remove();
  });

  test('a database of a newer version is left alone', async () => {
    const folder = temporaryFolder();
    const db = new Database(`${folder.path}/kleidon.sqlite`);
    db.pragma('user_version = 999');
    db.close();
    await expect(run(folder.path)).rejects.toThrow('newer version');
    folder.remove();
  });
});

test('requests for another host name are refused, so that no page can reach the service by a name of its own', async () => {
  const folder = temporaryFolder();
  const service = await run(folder.path, '--allow-host', 'kleidon.internal');
  const { hostname, port } = new URL(service.address);
  const statusFor = async (host: string): Promise<number> => {
    const request = httpRequest({ hostname, port, path: '/healthz', headers: { Host: host } });
    request.end();
    const [response] = (await once(request, 'response')) as [
      { statusCode: number; resume(): void },
    ];
    response.resume();
    return response.statusCode;
  };
  expect(await statusFor('evil.example')).toBe(421);
  expect(await statusFor('kleidon.internal:80')).toBe(200);
  expect(await statusFor(`localhost:${port}`)).toBe(200);
  await service.end();
  folder.remove();
});
