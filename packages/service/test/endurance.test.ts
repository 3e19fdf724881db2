import { readFileSync, writeFileSync } from 'node:fs';
import { Agent, get, request as httpRequest } from 'node:http';
import { EventEmitter, once } from 'node:events';
import Database from 'better-sqlite3';
import { createClient, ServiceProblem } from '@kleidon/client';
import { agent } from './agent.ts';
import { run, SAMPLE, temporaryFolder } from './running.ts';
import { freePort, program, sampleSite, serve } from './sample.ts';

const sample = readFileSync(SAMPLE, 'utf8');
/** What takes no time to check, where it is saved again and again. */
const small = 'kleidon: 1\nsite: { name: S, address: https://s.example }\npages: { /: Home }\n';

/** As a trial of its own, 200. */
const KILLS = Number(process.env['KLEIDON_KILLS'] ?? 3);

describe('what was acknowledged is kept', () => {
  test('when the service is killed during a hundred saves', async () => {
    const folder = temporaryFolder();
    const first = await run(folder.path);
    const client = createClient(first.address);
    await client.addSite(small, 'merrow');
    let acknowledged = 1;
    try {
      for (let save = 1; save <= 100; save++) {
        const saving = client.saveDraft('merrow', save, `${small}# save ${save}\n`);
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
    expect(text).toBe(`${small}# save ${version - 1}\n`);
    expect(await second.end()).toBe(0);
    folder.remove();
  });

  test(
    'when the service is killed again and again amid writes of every kind',
    async () => {
      const folder = temporaryFolder();
      const sold = `${small}products: { pass: { title: Pass } }\n`;
      let service = await run(folder.path);
      const call = async (path: string, method = 'GET', body?: unknown, version = 0) => {
        const type = typeof body !== 'string' ? 'json' : path.endsWith('.csv') ? 'csv' : 'yaml';
        const answer = await fetch(`${service.address}/api/sites${path}`, {
          method,
          headers: {
            'Content-Type': type === 'csv' ? 'text/csv' : `application/${type}`,
            'If-Match': `"${version}"`,
          },
          ...(body === undefined
            ? {}
            : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
        });
        return { ok: answer.ok, told: (await answer.json()) as Record<string, unknown> };
      };
      expect((await call('?id=s', 'POST', sold)).ok).toBe(true);
      /** Each kind of write, and how it is seen that one of them was made. */
      const KINDS: Record<
        string,
        [write: (name: string) => ReturnType<typeof call>, has: (name: string) => Promise<boolean>]
      > = {
        draft: [
          async (name) => {
            const { version, text } = (await call('/s/draft')).told as {
              version: number;
              text: string;
            };
            return call('/s/draft', 'PUT', `${text}# ${name}.\n`, version);
          },
          async (name) => String((await call('/s/draft')).told['text']).includes(`# ${name}.`),
        ],
        list: [
          async (name) => {
            const { version } = (await call('/s/draft')).told as { version: number };
            return call(`/s/lists/${name}.csv`, 'PUT', `from,to\n/${name},/\n`, version);
          },
          async (name) =>
            (
              (await call('/s/lists')).told as { lists: { name: string; length: number }[] }
            ).lists.some((list) => list.name === `${name}.csv` && list.length > 0),
        ],
        release: [
          async (name) => {
            const { version } = (await call('/s/draft')).told as { version: number };
            return call('/s/releases', 'POST', { note: name }, version);
          },
          async (name) =>
            ((await call('/s/releases')).told as { releases: { note: string }[] }).releases.some(
              ({ note }) => note === name,
            ),
        ],
        grant: [
          (name) =>
            call('/s/purchases', 'POST', {
              email: `${name}@s.example`,
              product: 'pass',
              note: 'x',
            }),
          async (name) =>
            (
              (await call(`/s/purchases?email=${name}@s.example`)).told as {
                purchases: unknown[];
              }
            ).purchases.length === 1,
        ],
        site: [
          (name) => call(`?id=${name}`, 'POST', small),
          async (name) => (await call(`/${name}`)).ok,
        ],
        change: [
          (name) =>
            call('/s/changes/all-of-them', 'POST', {
              do: 'put',
              section: 'groups',
              name,
              was: null,
              value: 'G',
            }),
          async (name) =>
            JSON.stringify((await call('/s/changes/all-of-them')).told).includes(`"${name}"`),
        ],
      };
      const acknowledged: [kind: string, name: string][] = [];
      const counts: Record<string, number> = {};
      for (let kill = 0; kill < KILLS; kill++) {
        let isOver = false;
        const progress = new EventEmitter();
        // What builds on a version of the draft is written by one editor, by turns.
        const writers = [['draft', 'list', 'release'], ['grant'], ['site'], ['change']].map(
          async (kinds) => {
            for (let i = 0; !isOver; i++) {
              const kind = kinds[i % kinds.length]!;
              const name = `${kind}-${kill}-${i}`;
              const written = await KINDS[kind]![0](name).catch(() => null);
              if (!written?.ok) continue;
              acknowledged.push([kind, name]);
              if (kind === 'site') progress.emit('site');
            }
          },
        );
        // At another moment each time, once each kind was written.
        while (
          Object.keys(KINDS).some((kind) => acknowledged.every(([written]) => written !== kind))
        )
          await once(progress, 'site');
        await new Promise((done) => setTimeout(done, (kill * 487) % 600));
        await service.end('SIGKILL');
        isOver = true;
        await Promise.all(writers);
        service = await run(folder.path);
        for (const [kind, name] of acknowledged.splice(0)) {
          counts[kind] = (counts[kind] ?? 0) + 1;
          expect([kind, name, await KINDS[kind]![1](name)]).toEqual([kind, name, true]);
        }
      }
      if (process.env['KLEIDON_KILLS']) process.stderr.write(`${JSON.stringify(counts)}\n`);
      expect(await service.end()).toBe(0);
      const db = new Database(`${folder.path}/kleidon.sqlite`);
      expect(db.pragma('integrity_check', { simple: true })).toBe('ok');
      db.close();
      folder.remove();
    },
    60_000 + KILLS * 10_000,
  );

  test('when two editors save at once: one of them is told, and both texts are known', async () => {
    const folder = temporaryFolder();
    const service = await run(folder.path);
    const client = createClient(service.address);
    await client.addSite(small, 'merrow');
    const results = await Promise.allSettled(
      Array.from({ length: 8 }, (_, editor) =>
        client.saveDraft('merrow', 1, `${small}# editor ${editor}\n`),
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
    expect((await client.draft('merrow')).text).toBe(`${small}# editor ${winner}\n`);
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
      (async () => {
        for (;;) await (await fetch(`${service.address}/healthz`)).text();
      })(),
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

  test('SIGTERM cuts off no answer, on kept connections and under load', async () => {
    const folder = temporaryFolder();
    const website = await serve((_, response) => {
      response.writeHead(200, { 'Content-Length': 200_000 });
      response.write(Buffer.alloc(100_000));
      setImmediate(() => response.end(Buffer.alloc(100_000)));
    });
    const port = await freePort();
    writeFileSync(
      `${folder.path}/kleidon.yaml`,
      `gateways: [{ site: loaded, port: ${port}, origin: '${website.at}' }]\n`,
    );
    const service = await run(folder.path, '--settings', `${folder.path}/kleidon.yaml`);
    const site = `kleidon: 1\nsite: { name: L, address: 'http://127.0.0.1:${port}' }\npages: { /: Home }\n`;
    const client = createClient(service.address);
    await client.addSite(site, 'loaded');
    await client.release('loaded', 1, 'Load');
    const agent = new Agent({ keepAlive: true, maxSockets: 30 });
    const told = { whole: 0, cut: 0, reset: 0, refused: 0 };
    let isServed: () => void;
    const served = new Promise<void>((done) => (isServed = done));
    const one = (): Promise<boolean> =>
      new Promise((next) => {
        const request = get({ port, host: '127.0.0.1', agent }, (response) => {
          let length = 0;
          response.on('data', (chunk: Buffer) => (length += chunk.length));
          response.once('close', () => {
            told[response.complete && length === 200_000 ? 'whole' : 'cut']++;
            if (told.whole === 300) isServed();
            next(true);
          });
        });
        request.once('error', ({ code }: NodeJS.ErrnoException) => {
          told[code === 'ECONNREFUSED' ? 'refused' : 'reset']++;
          next(false);
        });
      });
    const visitors = Array.from({ length: 30 }, async () => {
      while (await one());
    });
    await served;
    expect(await service.end('SIGTERM')).toBe(0);
    await Promise.all(visitors);
    expect(told).toEqual({ whole: told.whole, cut: 0, reset: 0, refused: 30 });
    agent.destroy();
    website.server.close();
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

describe('the gateway under load', () => {
  /** Asks without a pause until it is told to stop; gives how often each status came. */
  const load = (home: string, cookie: string) => {
    let isOver = false;
    const statuses = new Map<number, number>();
    const workers = Array.from({ length: 8 }, async () => {
      while (!isOver) {
        const status = await fetch(`${home}/crew/rota`, {
          redirect: 'manual',
          headers: { Cookie: cookie },
        }).then(
          async (answer) => {
            await answer.arrayBuffer();
            return answer.status;
          },
          () => 0,
        );
        statuses.set(status, (statuses.get(status) ?? 0) + 1);
        if (status === 0) await new Promise(setImmediate);
      }
    });
    return {
      count: (status: number) => statuses.get(status) ?? 0,
      /** Waits until a status has come this many times more. */
      more: async (status: number, times: number) => {
        const before = statuses.get(status) ?? 0;
        while ((statuses.get(status) ?? 0) < before + times) await new Promise(setImmediate);
      },
      end: async () => {
        isOver = true;
        await Promise.all(workers);
        return [...statuses.keys()].sort();
      },
    };
  };
  const signedIn = async (home: string): Promise<string> => {
    const vik = agent();
    await vik.follow(`${home}/.kleidon/open-as?as=vik&to=/crew`);
    return vik.jar.getCookieString(home);
  };

  test('the website is killed and comes back: 502 in between, never a hang, and then as before', async () => {
    const folder = temporaryFolder();
    const site = await sampleSite(folder.path);
    const cookie = await signedIn(site.gateway);
    const under = load(site.gateway, cookie);
    await under.more(200, 50);
    const { port } = new URL(site.website.address);
    await site.website.end();
    await under.more(502, 300);
    const again = await program('website/server.mjs', '--port', port);
    await under.more(200, 200);
    expect(await under.end()).toEqual([200, 502]);
    // Of each second twenty lines, whoever asks how often; some at the turn of a second may count for the next.
    const perSecond = new Map<number, number>();
    for (const [, time] of site
      .service()
      .log()
      .matchAll(/"time":(\d+)\d{3},.*could not answer/g))
      perSecond.set(Number(time), (perSecond.get(Number(time)) ?? 0) + 1);
    expect(perSecond.size).toBeGreaterThan(0);
    expect([...perSecond.values()].filter((count) => count > 25)).toEqual([]);
    await again.end();
    await site.end();
    folder.remove();
  });

  test('the service is killed and comes back: sessions live on, and no release is lost', async () => {
    const folder = temporaryFolder();
    const site = await sampleSite(folder.path);
    const cookie = await signedIn(site.gateway);
    const under = load(site.gateway, cookie);
    await under.more(200, 50);
    const client = createClient(site.service().address);
    // Whoever is not let in any more once this is acknowledged must not be after a kill either.
    const closed = sample.replace('    admit: crew\n', '    admit: role warden\n');
    const { version } = await client.saveDraft('merrow-point', 1, closed);
    await client.release('merrow-point', version, 'The crew room is for wardens');
    await site.restart('SIGKILL');
    await under.more(403, 50);
    const statuses = await under.end();
    expect(statuses.filter((status) => status !== 0)).toEqual([200, 403]);
    const [last] = await createClient(site.service().address).releases('merrow-point');
    expect(last).toMatchObject({ number: 2, note: 'The crew room is for wardens' });
    await site.end();
    folder.remove();
  });
});
