import type { RequestListener, Server } from 'node:http';
import { EventEmitter, once } from 'node:events';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { Webhook } from 'standardwebhooks';
import type { Message } from '@kleidon/api';
import { kleidon } from '../../cli/test/cli.ts';
import { readSettings } from '../src/settings/settings.ts';
import { deliver } from '../src/probe/webhook.ts';
import { call, called, operations, validate } from './described.ts';
import { run, SAMPLE, temporaryFolder, type Running } from './running.ts';
import { freePort, passing, sampleSite, serve, type SampleSite } from './sample.ts';

type Run = Message<'ProbeRun'>;
type Difference = Message<'ProbeDifference'>;
interface Told {
  readonly probe: Message<'Probe'> | null;
  readonly runs: readonly Run[];
  readonly open: number;
}
interface Sent {
  readonly type: string;
  readonly data: {
    readonly open: number;
    readonly begun: number;
    readonly ended: number;
    readonly failure: string | null;
    readonly differences: readonly Difference[];
  };
}

const SECRETS = ['whsec_', 'whsec_'].map(
  (prefix, i) => prefix + Buffer.alloc(32, i + 1).toString('base64'),
);

/** Whom a webhook tells: checks each signature as a receiver does, and may refuse. */
async function receiver() {
  const arrived = new EventEmitter();
  const sent: (Sent & { readonly id: string })[] = [];
  const answers: number[] = [];
  const { server, at } = await serve((request, response) => {
    let body = '';
    request.on('data', (chunk: Buffer) => (body += chunk.toString()));
    request.on('end', () => {
      const headers = request.headers as Record<string, string>;
      for (const secret of SECRETS) new Webhook(secret).verify(body, headers);
      validate('openapi#/components/schemas/ProbeMessage', JSON.parse(body));
      response.writeHead(answers.shift() ?? 204).end();
      sent.push({ ...(JSON.parse(body) as Sent), id: headers['webhook-id']! });
      arrived.emit('message');
    });
  });
  return {
    at,
    sent,
    answers,
    /** Waits until so many messages came in all. */
    messages: async (count: number) => {
      while (sent.length < count) await once(arrived, 'message');
      return sent[count - 1]!;
    },
    end: () => server.close(),
  };
}

const asking = (address: () => string, site: string) => {
  const ask = async <T>(path: string, init?: RequestInit): Promise<T> =>
    (await (await call(address(), `/api/sites/${site}/${path}`, init)).json()) as T;
  const probe = (): Promise<Told> => ask('probe');
  /** Waits until so many runs are recorded. */
  const runs = async (count: number): Promise<Run> => {
    for (;;) {
      const [last] = (await probe()).runs;
      if ((last?.number ?? 0) >= count) return last!;
      await wait(50);
    }
  };
  return {
    probe,
    runs,
    begin: async (): Promise<Run> => {
      const [last] = (await probe()).runs;
      const { status } = await call(address(), `/api/sites/${site}/probe`, { method: 'POST' });
      expect(status).toBe(202);
      return runs((last?.number ?? 0) + 1);
    },
    differences: async (query = ''): Promise<readonly Difference[]> =>
      (await ask<{ differences: Difference[] }>(`probe/differences?${query}`)).differences,
    ask,
  };
};

describe('the sample site, probed by the service', () => {
  const folder = temporaryFolder();
  let sample: SampleSite;
  let desk: Awaited<ReturnType<typeof receiver>>;
  let between: { server: Server; at: string };
  let fault: RequestListener | null = null;
  const { probe, runs, begin, differences, ask } = asking(
    () => sample.service().address,
    'merrow-point',
  );

  beforeAll(async () => {
    desk = await receiver();
    between = await passing(
      () => sample.website.address,
      () => fault,
    );
    sample = await sampleSite(folder.path, {
      origin: between.at,
      // A request that is held back while a release is made must not end.
      patience: 120,
      more: () => `probes:
  - site: merrow-point
    every: 1d
    pause: 0
    timeout: 120
    visitors: [gale, vik]
    webhook: { address: '${desk.at}/hook', secret: [${SECRETS.join(', ')}] }
`,
    });
  });
  afterAll(async () => {
    await sample.end();
    between.server.close();
    desk.end();
    folder.remove();
  });
  beforeEach(() => (fault = null));

  test('is probed once it is released, and agrees', async () => {
    const first = await runs(1);
    expect(first).toMatchObject({ release: 1, agreed: 104, differed: 0, untried: [] });
    expect([first.failure, first.endedBy]).toEqual([null, null]);
    expect(first.pages).toBeGreaterThan(30);
    const { probe: state, open } = await probe();
    expect(state).toMatchObject({ website: sample.gateway, every: 86_400, running: null });
    expect(Date.parse(state!.nextAt!)).toBe(Date.parse(first.startedAt) + 86_400_000);
    expect([open, await differences()]).toEqual([0, []]);
  });

  test('leaves no trace among what visitors do', async () => {
    // A miss of a visitor is written down with all that was noted before it.
    await fetch(`${sample.gateway}/noted-last`);
    for (;;) {
      const { misses } = await ask<{ misses: { address: string }[] }>('misses');
      if (misses.length > 0) {
        expect(misses.map(({ address }) => address)).toEqual(['/noted-last']);
        break;
      }
      await wait(50);
    }
    const { counts } = await ask<{ counts: { count: number }[] }>('traffic?hours=1');
    expect(counts.reduce((sum, { count }) => sum + count, 0)).toBe(1);
    expect((await ask<{ all: number }>('sessions')).all).toBe(0);
    expect((await ask<{ used: number }>('redirect-uses')).used).toBe(0);
  });

  test('who does not know the mark is counted, and the website never sees it', async () => {
    const seen: unknown[] = [];
    fault = (request) => seen.push(request.headers['kleidon-probe']);
    await fetch(`${sample.gateway}/about`, { headers: { 'Kleidon-Probe': 'guess' } });
    expect(seen).toEqual([undefined]);
    for (;;) {
      const { counts } = await ask<{ counts: { count: number }[] }>('traffic?hours=1');
      if (counts.reduce((sum, { count }) => sum + count, 0) === 2) break;
      await wait(50);
    }
  });

  test('what differs is kept with its first and last time, and told once', async () => {
    fault = (request, response) => {
      if (request.url === '/crew/rota') response.writeHead(500).end();
    };
    const run = await begin();
    expect(run.differed).toBeGreaterThan(0);
    const found = await differences();
    expect(new Set(found.map(({ kind, effect }) => `${kind} ${effect}`))).toEqual(
      new Set(['visit closes']),
    );
    expect(found.map(({ visitor }) => visitor)).not.toContain('gale');
    expect(found[0]).toMatchObject({ address: '/crew/rota', expected: '200', found: '500' });
    const told = await desk.messages(1);
    expect(told).toMatchObject({ type: 'probe.differs', data: { open: found.length, ended: 0 } });
    expect(told.data.differences.map(({ visitor }) => visitor)).toEqual(
      expect.arrayContaining(found.map(({ visitor }) => visitor)),
    );

    await begin();
    const again = await differences();
    expect(again.map(({ firstAt }) => firstAt)).toEqual(found.map(({ firstAt }) => firstAt));
    expect(again.every(({ firstAt, lastAt }) => firstAt < lastAt)).toBe(true);

    const ended = await kleidon([
      ...['live', 'probe', '--search', 'VIK', '--service', sample.service().address],
    ]);
    expect([ended.code, ended.err]).toEqual([1, '']);
    expect(ended.out).toContain("✗ /crew/rota as vik: doesn't see what is for them\n");
    expect(ended.out).toContain('  the rules say  200\n  the website    500\n');

    fault = null;
    await begin();
    expect(await differences()).toEqual([]);
    const over = await differences('ended=yes');
    expect(over).toHaveLength(found.length);
    expect(over.every(({ endedAt, lastAt }) => endedAt! > lastAt)).toBe(true);
    expect((await desk.messages(2)).type).toBe('probe.agrees');
    expect(desk.sent).toHaveLength(2);
  });

  test('what passes by is no difference', async () => {
    let times = 0;
    fault = (request, response) => {
      if (request.url === '/about' && times++ === 0) response.writeHead(500).end();
    };
    expect((await begin()).differed).toBe(0);
    expect(times).toBeGreaterThan(1);
  });

  test('a page that the website lacks is told once, and so is one that the site file lacks', async () => {
    fault = (request, response) => {
      if (request.url === '/sightings') response.writeHead(404).end('none');
      if (request.url === '/')
        response
          .writeHead(200, { 'Content-Type': 'text/html' })
          .end(
            '<a href="/leaflet">L</a><a href="https://merrowpoint.example/crew/notes">N</a><a href="/latest">O</a>',
          );
      if (['/leaflet', '/crew/notes', '/latest'].includes(request.url!))
        response.writeHead(200, { 'Content-Type': 'text/html' }).end('there');
    };
    await begin();
    const found = (await differences()).map(({ kind, address, visitor, expected }) => [
      kind,
      address,
      visitor,
      expected,
    ]);
    expect(found).toEqual(
      expect.arrayContaining([
        ['absent-page', '/sightings', null, '200'],
        ['undeclared-page', '/leaflet', null, '404 for guests'],
        ['undeclared-page', '/crew/notes', null, expect.stringMatching(/^30\d for guests|^404/)],
      ]),
    );
    // What only leads to that page has its own difference, and a redirect is known to the rules.
    expect(found.filter(([, address]) => address === '/sightings')).toHaveLength(1);
    expect(found.filter(([, address]) => address === '/latest')).toEqual([]);
    const { sent } = desk;
    expect((await desk.messages(3)).data.begun).toBe(found.length);
    fault = null;
    await begin();
    expect(await differences()).toEqual([]);
    await desk.messages(4);
    expect(sent).toHaveLength(4);
  });

  test('a website that is down is one failure, told once, and ends no difference', async () => {
    fault = (request, response) => {
      if (request.url === '/crew/rota') response.writeHead(500).end();
    };
    await begin();
    const { open } = await probe();
    expect(open).toBeGreaterThan(0);
    fault = (_, response) => response.destroy();
    const down = await begin();
    expect([down.failure, down.agreed]).toEqual([`${sample.gateway} answered 502.`, 0]);
    await begin();
    expect((await probe()).open).toBe(open);
    const failed = await kleidon(['live', 'probe', '--service', sample.service().address]);
    expect([failed.code, failed.out]).toEqual([1, expect.stringContaining('answered 502.')]);
    fault = null;
    await begin();
    const told = [await desk.messages(5), await desk.messages(6), await desk.messages(7)];
    expect(told.map(({ type }) => type)).toEqual(['probe.differs', 'probe.failed', 'probe.agrees']);
    expect(told[1]!.data.failure).toBe(down.failure);
  });

  test('a message that is not taken is sent again, with the same id', async () => {
    desk.answers.push(503);
    fault = (request, response) => {
      if (request.url === '/about') response.writeHead(404).end();
    };
    await begin();
    const first = await desk.messages(8);
    const again = await desk.messages(9);
    expect(again).toEqual(first);
    for (;;) {
      const { webhook } = (await probe()).probe!;
      if (webhook!.waiting === 0) {
        expect(webhook!.last).toMatchObject({ attempts: 2, answer: '204', nextAt: null });
        break;
      }
      await wait(50);
    }
    fault = null;
    await begin();
    await desk.messages(10);
  });

  test('another release is probed at once, and a run that it came into does not count', async () => {
    const { runs: before } = await probe();
    // Held back, so that the release comes in between.
    let release: () => void = () => undefined;
    const held = new Promise<void>((resolve) => (release = resolve));
    let isHeld: () => void = () => undefined;
    const holding = new Promise<void>((resolve) => (isHeld = resolve));
    const listeners = between.server.listeners('request') as RequestListener[];
    between.server.removeAllListeners('request');
    between.server.on('request', (request, response) => {
      isHeld();
      void held.then(() => listeners[0]!(request, response));
    });
    await call(sample.service().address, '/api/sites/merrow-point/probe', { method: 'POST' });
    await holding;
    expect((await probe()).probe!.running).not.toBeNull();
    const at = `${sample.service().address}/api/sites/merrow-point`;
    const text = readFileSync(SAMPLE, 'utf8').replace('  /about: About us\n', '');
    await fetch(`${at}/draft`, {
      method: 'PUT',
      headers: { 'Content-Type': 'application/yaml', 'If-Match': '"1"' },
      body: text,
    });
    const made = await kleidon([
      ...['release', '--site', 'merrow-point', '--note', 'Second'],
      ...['--service', sample.service().address],
    ]);
    expect(made.code).toBe(0);
    release();
    const last = await runs(before[0]!.number + 1);
    between.server.removeAllListeners('request');
    between.server.on('request', listeners[0]!);
    expect([last.number, last.release, last.agreed]).toEqual([before[0]!.number + 1, 2, 102]);
    expect(await differences()).toMatchObject([{ kind: 'undeclared-page', address: '/about' }]);
  });

  test('SIGKILL in the middle of a run loses nothing, and the next begins by itself', async () => {
    const { runs: before, open } = await probe();
    // A release that is not probed yet is due at once.
    const made = await kleidon([
      ...['release', 'restore', '1', '--site', 'merrow-point', '--note', 'Back'],
      ...['--service', sample.service().address],
    ]);
    expect([made.code, made.err]).toEqual([0, '']);
    for (;;) if ((await probe()).probe!.running !== null) break;
    await sample.restart('SIGKILL');
    expect((await probe()).open).toBe(open);
    const last = await runs(before[0]!.number + 1);
    expect(last).toMatchObject({ release: 3, agreed: 104, failure: null });
  });

  test('without a probe, and before a release, that is said', async () => {
    const { address } = sample.service();
    await fetch(`${address}/api/sites?id=other`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/yaml' },
      body: 'kleidon: 1\nsite: { name: Other, address: https://other.example }\npages: { /: Home }\n',
    });
    const other = asking(() => address, 'other');
    expect(await other.probe()).toEqual({ probe: null, runs: [], open: 0 });
    const none = await call(address, '/api/sites/other/probe', { method: 'POST' });
    expect([none.status, await none.json()]).toEqual([
      404,
      expect.objectContaining({ type: '/api/problems/no-probe' }),
    ]);
    const said = await kleidon(['live', 'probe', '--site', 'other', '--service', address]);
    expect([said.code, said.out]).toEqual([0, expect.stringContaining('The settings name no')]);
  });

  test('each call was made, and answered as described', () => {
    expect(operations('probe').filter((one) => !called.has(one))).toEqual([]);
  });
});

describe('a website that is asked directly', () => {
  const folder = temporaryFolder();
  let website: { server: Server; at: string };
  let service: Running;
  let listener: RequestListener;
  const { probe, runs, begin, differences } = asking(() => service.address, 'own');

  beforeAll(async () => {
    listener = (_, response) => response.end('x');
    website = await serve((request, response) => listener(request, response));
    writeFileSync(join(folder.path, 'known.yaml'), 'kim: { headers: { X-Who: kim } }\n');
    writeFileSync(
      join(folder.path, 'settings.yaml'),
      `probes:
  - { site: own, website: '${website.at}', every: 5m, sign-in: known.yaml, pause: 0, timeout: 1, pages: 10 }
`,
    );
    service = await run(
      join(folder.path, 'data'),
      ...['--settings', join(folder.path, 'settings.yaml'), '--log-level', 'silent'],
    );
    await fetch(`${service.address}/api/sites?id=own`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/yaml' },
      body: `kleidon: 1
site: { name: Own, address: https://own.example, sign-in: / }
roles: { crew: x }
pages: { /: Home, /crew: Crew, /far: Far }
gates: { crew: { at: /crew, admit: role crew, otherwise: [{ do: hide }] } }
visitors: { gale: { guest: yes }, kim: { roles: [crew] }, lou: { roles: [crew] } }
`,
    });
  });
  afterAll(async () => {
    await service.end();
    website.server.closeAllConnections();
    website.server.close();
    folder.remove();
  });

  test('nothing is compared before something is released', async () => {
    expect((await probe()).probe).toMatchObject({ nextAt: null, running: null });
    const refused = await call(service.address, '/api/sites/own/probe', { method: 'POST' });
    expect([refused.status, await refused.json()]).toEqual([
      404,
      expect.objectContaining({ type: '/api/problems/no-such-release' }),
    ]);
    await kleidon(['release', '--note', 'First', '--service', service.address]);
    const first = await runs(1);
    expect(first.untried).toEqual([
      { visitor: 'lou', because: expect.stringContaining('--sign-in') as string, failed: false },
    ]);
    expect([first.agreed, first.differed]).toEqual([5, 1]);
    expect(await differences()).toMatchObject([
      { kind: 'visit', address: '/crew', visitor: 'gale', effect: 'opens', found: '200' },
    ]);
  });

  test('a visitor who can not be tried any more keeps their differences', async () => {
    listener = (request, response) => {
      const isOpen = request.url !== '/crew' || request.headers['x-who'] === 'someone-else';
      response.writeHead(isOpen ? 200 : request.headers['x-who'] ? 403 : 404).end('x');
    };
    await begin();
    expect(await differences()).toMatchObject([{ visitor: 'kim', effect: 'closes' }]);
    writeFileSync(join(folder.path, 'known.yaml'), 'lou: { headers: { X-Who: someone-else } }\n');
    await begin();
    expect(await differences()).toMatchObject([{ visitor: 'kim', effect: 'closes' }]);
    writeFileSync(join(folder.path, 'known.yaml'), 'kim: { headers: { X-Who: someone-else } }\n');
    await begin();
    expect(await differences()).toEqual([]);
    writeFileSync(join(folder.path, 'known.yaml'), 'kim: { header: {} }\n');
    expect((await begin()).failure).toContain('"header" is neither "cookies" nor "headers".');
    writeFileSync(join(folder.path, 'known.yaml'), 'kim: { headers: { X-Who: someone-else } }\n');
  });

  const END_OF_HEAD = Buffer.from('\x9b31m', 'latin1').toString('latin1');
  test.each<[string, RequestListener, unknown]>([
    [
      'redirects without end',
      (request, response) => response.writeHead(302, { Location: `${request.url}/x` }).end(),
      { found: expect.stringContaining('302 to') as string },
    ],
    [
      'sends heads that are commands to a terminal',
      (request, response) => {
        if (request.url === '/') response.end('x');
        else response.writeHead(302, { Location: `http://[${END_OF_HEAD}` }).end();
      },
      { found: '302 to http://[\u{FFFD}31m' },
    ],
    [
      'sends addresses without end',
      (request, response) => {
        if (request.url === '/') response.end('x');
        else response.writeHead(302, { Location: `/${'y'.repeat(9000)}` }).end();
      },
      { found: expect.stringMatching(/^302 to \/y{480,}…$/) as string },
    ],
    [
      'takes for ever',
      (request, response) => {
        if (request.url === '/') response.end('x');
      },
      { found: expect.stringContaining('no answer') as string },
    ],
    [
      'gives a cookie with every answer, and pages without end',
      (request, response) => {
        const links = Array.from({ length: 2000 }, (_, i) => `<a href="${request.url}/${i}">x</a>`);
        response.setHeader('Set-Cookie', `${encodeURIComponent(request.url!)}=${'z'.repeat(3000)}`);
        response.writeHead(200, { 'Content-Type': 'text/html' }).end(links.join(''));
      },
      { kind: 'visit', address: '/crew', effect: 'opens' },
    ],
  ])('a hostile one that %s is bounded, and told', async (_, hostile, difference) => {
    listener = hostile;
    const { failure } = await begin();
    expect(failure).toBeNull();
    expect(await differences()).toEqual(
      expect.arrayContaining([expect.objectContaining(difference as object)]),
    );
    expect((await fetch(`${service.address}/healthz`)).status).toBe(200);
  });

  test('a website that is not there is said to be so', async () => {
    website.server.closeAllConnections();
    website.server.close();
    expect((await begin()).failure).toMatch(/^http:\/\/127\.0\.0\.1:\d+ can't be reached: /);
  });
});

describe('how a message is delivered', () => {
  const NOW = new Date('2026-05-01T12:00:00Z');
  const message = (attempts: number) => ({
    id: 'msg_1',
    site: 'own',
    body: '{"type":"probe.agrees"}',
    madeAt: NOW.toISOString(),
    attempts,
    nextAt: NOW.toISOString(),
    deliveredAt: null,
    answer: null,
  });
  const seconds = (next: Date | null) => next && (next.getTime() - NOW.getTime()) / 1000;

  test.each<[number, Record<string, string>, number, boolean, number | null]>([
    [200, {}, 0, true, null],
    [204, {}, 8, true, null],
    [500, {}, 0, false, 5],
    [500, {}, 1, false, 300],
    [404, {}, 2, false, 1800],
    [302, { Location: '/else' }, 3, false, 7200],
    [429, { 'Retry-After': '60' }, 0, false, 60],
    [429, { 'Retry-After': '999999' }, 0, false, 86_400],
    [503, { 'Retry-After': 'soon' }, 0, false, 5],
    [410, {}, 0, false, null],
    [500, {}, 9, false, null],
  ])('answered with %i %j at attempt %i', async (status, headers, attempts, isDelivered, next) => {
    const asked: string[] = [];
    const { server, at } = await serve((request, response) => {
      asked.push(request.url!);
      response.writeHead(status, headers).end();
    });
    const webhook = { address: `${at}/hook`, secrets: SECRETS };
    const delivery = await deliver(message(attempts), webhook, NOW);
    server.close();
    expect({ ...delivery, nextAt: seconds(delivery.nextAt) }).toEqual({
      isDelivered,
      answer: String(status),
      nextAt: next,
    });
    expect(asked).toEqual(['/hook']);
  });

  test('one that nobody takes is tried again', async () => {
    const webhook = { address: `http://127.0.0.1:${await freePort()}/`, secrets: SECRETS };
    const { isDelivered, answer, nextAt } = await deliver(message(0), webhook, NOW);
    expect([isDelivered, seconds(nextAt)]).toEqual([false, 5]);
    expect(answer).toMatch(/^no answer \(/);
  });
});

test.each([
  ['{ site: x, every: 1h }', 'needs "website", or a gateway'],
  ['{ site: x, website: "http://x" }', '"every" of a probe is missing'],
  ['{ site: x, website: "http://x", every: 1w }', 'a time such as 30m, 6h or 1d'],
  ['{ site: x, website: "http://x", every: 0h }', 'a time such as 30m, 6h or 1d'],
  ['{ site: x, website: "http://x", every: 40d }', 'at most 31d'],
  ['{ site: x, website: "http://x/y", every: 1h }', '"website" is protocol and host'],
  ['{ site: x, website: "http://x", every: 1h, when: now }', '"when" is not a setting here'],
  ['{ site: x, website: "http://x", every: 1h, limit: 0 }', '"limit" of a probe is at least 1'],
  [
    '{ site: x, website: "http://x", every: 1h, webhook: { address: "ftp://x", secret: s } }',
    '"secret" of a webhook is whsec_',
  ],
  [
    '{ site: x, website: "http://x", every: 1h, webhook: { address: "http://x" } }',
    '"secret" of a webhook is missing',
  ],
  [
    '{ site: x, website: "http://x", every: 1h }, { site: x, website: "http://x", every: 1h }',
    'A site has one probe.',
  ],
])('a probe %s in the settings is refused: %s', (text, said) => {
  const folder = temporaryFolder();
  const file = join(folder.path, 'settings.yaml');
  writeFileSync(file, `probes: [${text}]\n`);
  expect(() => readSettings(file)).toThrow(said);
  expect(() => readSettings(file)).toThrow('settings.yaml:1:');
  folder.remove();
});
