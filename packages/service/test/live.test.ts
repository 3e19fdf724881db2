import Database from 'better-sqlite3';
import { setTimeout as wait } from 'node:timers/promises';
import { agent } from './agent.ts';
import { kleidon } from '../../cli/test/cli.ts';
import { call, called, operations } from './described.ts';
import { sampleSite, type SampleSite } from './sample.ts';
import { temporaryFolder } from './running.ts';

interface Miss {
  readonly address: string;
  readonly count: number;
  readonly first: string;
  readonly last: string;
  readonly referrer: string | null;
}
interface Use {
  readonly from: string;
  readonly when: string | null;
  readonly count: number;
  readonly last: string | null;
}

describe('what happens at the gateway', () => {
  const folder = temporaryFolder();
  let site: SampleSite;

  beforeAll(async () => {
    site = await sampleSite(folder.path, { more: () => '    retention-days: 30\n' });
  });
  afterAll(async () => {
    await site.end();
    folder.remove();
  });

  const get = (path: string, headers: Record<string, string> = {}): Promise<Response> =>
    fetch(site.gateway + path, { redirect: 'manual', headers });
  const ask = async <T>(path: string, init?: RequestInit): Promise<T> =>
    (await (
      await call(site.service().address, `/api/sites/merrow-point/${path}`, init)
    ).json()) as T;
  /** Asks until it is so: what was noted is written down every two seconds. */
  const until = async <T>(asks: () => Promise<T>, isSo: (value: T) => boolean): Promise<T> => {
    for (;;) {
      const value = await asks();
      if (isSo(value)) return value;
      await wait(50);
    }
  };
  const misses = async (query = ''): Promise<{ found: number; misses: Miss[] }> =>
    ask(`misses?${query}`);

  test('the gateway is told with its origin, its provider and how the website does', async () => {
    const { gateway } = await ask<{ gateway: Record<string, unknown> }>('gateway');
    expect(gateway).toMatchObject({
      address: site.gateway,
      publicAddress: site.gateway,
      origin: site.website.address,
      provider: site.identity.address,
      testProvider: true,
      sessions: 0,
      health: { isUp: true, says: '200' },
    });
  });

  test('what is not there is counted, with where the link was and the pages that were meant', async () => {
    for (let i = 0; i < 3; i++) await get('/jurnal', { Referer: `${site.gateway}/about?who=me` });
    await get('/journal/no-such-entry', { Referer: 'https://friends.example/list?name=Kim' });
    await get('/nothing?mail=kim@example.org');
    await get('/people-of/kim@example.org/x');
    const { misses: rows } = await until(misses, ({ found }) => found === 4);
    expect(rows[0]).toMatchObject({ address: '/jurnal', count: 3, referrer: '/about' });
    const { pages } = await ask<{ pages: readonly { readonly address: string }[] }>(
      'suggestions?address=/jurnal&as=guest&state=live',
    );
    expect(pages.map(({ address }) => address)).toContain('/journal');
    expect(rows[0]!.first <= rows[0]!.last).toBe(true);
    const byAddress = new Map(rows.map((row) => [row.address, row]));
    // The website itself found nothing there, although the rules have a page.
    expect(byAddress.get('/journal/no-such-entry')?.referrer).toBe('https://friends.example');
    expect(byAddress.has('/nothing')).toBe(true);
    expect(byAddress.has('/people-of/…/x')).toBe(true);
    expect(JSON.stringify(rows)).not.toContain('kim@');
  });

  test('a page that is hidden is no miss, nor is one that is gone on purpose or asked for by a form', async () => {
    expect((await get('/trustees')).status).toBe(404);
    expect((await get('/blog')).status).toBe(410);
    await fetch(`${site.gateway}/no-form`, { method: 'POST' });
    await get('/last-of-these');
    const { misses: rows } = await until(misses, (all) =>
      all.misses.some(({ address }) => address === '/last-of-these'),
    );
    const addresses = rows.map(({ address }) => address);
    expect(addresses).not.toContain('/trustees');
    expect(addresses).not.toContain('/blog');
    expect(addresses).not.toContain('/no-form');
  });

  test('misses are searched, sorted and paged, and can be forgotten', async () => {
    const { found, misses: rows } = await misses('search=JUR&limit=1');
    expect([found, rows.map(({ address }) => address)]).toEqual([1, ['/jurnal']]);
    const byAddress = await misses('order=address&skip=1&limit=2');
    expect(byAddress.misses).toHaveLength(2);
    expect(byAddress.misses[0]!.address < byAddress.misses[1]!.address).toBe(true);
    const drop = (): Promise<Response> =>
      call(site.service().address, '/api/sites/merrow-point/misses?address=/jurnal', {
        method: 'DELETE',
      });
    expect((await drop()).status).toBe(204);
    expect((await drop()).status).toBe(404);
    expect((await misses('search=jurnal')).found).toBe(0);
  });

  test('hits are counted by redirect, those of two for different people apart', async () => {
    await get('/birds');
    await get('/birds?x=1');
    await get('/crew-news');
    const vik = agent();
    await vik.follow(`${site.gateway}/.kleidon/open-as?as=vik&to=/crew-news`);
    const uses = (query = ''): Promise<{ all: number; used: number; rows: Use[] }> =>
      ask(`redirect-uses?${query}`);
    const { rows, all, used } = await until(uses, (one) => one.used === 3);
    expect([all, used]).toEqual([15, 3]);
    expect(rows[0]).toMatchObject({ from: '/birds', count: 2 });
    expect(rows[0]?.last).toMatch(/^20/);
    expect(
      rows.filter(({ from }) => from === '/crew-news').map(({ when, count }) => [when, count]),
    ).toEqual(
      expect.arrayContaining([
        ['crew', 1],
        [null, 1],
      ]),
    );
    const [unused] = (await uses('order=unused&limit=1')).rows;
    expect([unused?.count, unused?.last]).toEqual([0, null]);
  });

  test('requests are counted by outcome', async () => {
    await get('/crew');
    await get('/crew%2Frota');
    const { counts, minutes } = await until(
      () =>
        ask<{ minutes: number; counts: { outcome: string; count: number }[] }>('traffic?hours=1'),
      (one) => one.counts.some(({ outcome }) => outcome === 'invalid'),
    );
    expect(minutes).toBe(1);
    const outcomes = new Set(counts.map(({ outcome }) => outcome));
    for (const one of ['reach', 'redirect', 'sign-in', 'missing', 'invalid'])
      expect(outcomes).toContain(one);
  });

  test('the command line tells the same', async () => {
    const live = async (...more: string[]): Promise<string> => {
      const { code, out } = await kleidon([
        'live',
        ...more,
        ...['--site', 'merrow-point', '--service', site.service().address],
      ]);
      expect(code).toBe(0);
      return out;
    };
    expect(await live('state')).toMatch(/^gateway +http:.*\nwebsite +http:.*answers 200 in \d+ ms/);
    expect(await live('misses', '--search', 'last-of-these')).toMatch(
      /1 +\/last-of-these +20\d\d-\d\d-\d\d \d\d:\d\dZ +not said/,
    );
    expect(await live('redirects', '--limit', '1')).toMatch(/2 +\/birds +\/sightings +20/);
    expect(await live('redirects', '--order', 'unused')).toContain('3 of 15 in use');
    expect(await live('sessions')).toMatch(/ vik +volunteer, in spring-count /);
    expect(JSON.parse(await live('misses', '--json'))).toEqual(await misses());
  });

  test('all sessions of a visitor are ended at once', async () => {
    const [one, two] = [agent(), agent()];
    await one.follow(`${site.gateway}/.kleidon/open-as?as=rhoda&to=/crew`);
    await two.follow(`${site.gateway}/.kleidon/open-as?as=rhoda&to=/crew`);
    const { sessions } = await ask<{ sessions: { visitor: string; summary: string }[] }>(
      'sessions',
    );
    expect(sessions.filter(({ visitor }) => visitor === 'rhoda')).toHaveLength(2);
    expect(await ask('sessions?visitor=rhoda', { method: 'DELETE' })).toEqual({ ended: 2 });
    expect((await one.ask(`${site.gateway}/crew`)).status).toBe(303);
    const gone = await call(
      site.service().address,
      '/api/sites/merrow-point/sessions/0123456789abcdef',
      { method: 'DELETE' },
    );
    expect(gone.status).toBe(404);
  });

  test('a website that is away is told so, and its requests count as failed', async () => {
    const other = temporaryFolder();
    const own = await sampleSite(other.path, { origin: 'http://127.0.0.1:1' });
    try {
      expect((await fetch(`${own.gateway}/about`)).status).toBe(502);
      const at = `${own.service().address}/api/sites/merrow-point`;
      const { gateway } = (await (await fetch(`${at}/gateway`)).json()) as {
        gateway: { health: object };
      };
      expect(gateway.health).toMatchObject({ isUp: false, says: 'ECONNREFUSED' });
      const traffic = await until(
        async () =>
          (await (await fetch(`${at}/traffic`)).json()) as { counts: { outcome: string }[] },
        ({ counts }) => counts.length > 0,
      );
      expect(traffic.counts.map(({ outcome }) => outcome)).toEqual(['failed']);
    } finally {
      await own.end();
      other.remove();
    }
  });

  test('what was noted is written down when the service stops, and forgotten after its time', async () => {
    await get('/noted-at-the-end');
    await site.restart('SIGTERM');
    const { misses: rows } = await misses('search=noted-at-the-end');
    expect(rows).toHaveLength(1);
    const db = new Database(`${folder.path}/kleidon.sqlite`);
    const old = Date.now() - 31 * 86_400_000;
    db.prepare('update miss set last_at = ? where address = ?').run(old, '/noted-at-the-end');
    db.close();
    // A start writes down and forgets with the first that is noted.
    await get('/something-new');
    await until(
      () => misses('search=something-new'),
      ({ found }) => found === 1,
    );
    await until(
      () => misses('search=noted-at-the-end'),
      ({ found }) => found === 0,
    );
  });

  test('without a gateway, that is said', async () => {
    const { address } = site.service();
    await fetch(`${address}/api/sites?id=other`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/yaml' },
      body: 'kleidon: 1\nsite: { name: Other, address: https://other.example }\npages: { /: Home }\n',
    });
    const none = await call(address, '/api/sites/other/gateway');
    expect(await none.json()).toEqual({ gateway: null });
    const sessions = await call(address, '/api/sites/other/sessions');
    expect([sessions.status, await sessions.json()]).toEqual([
      404,
      expect.objectContaining({ type: '/api/problems/no-gateway' }),
    ]);
    expect((await call(address, '/api/sites/other/misses?order=who')).status).toBe(400);
  });

  test('each call was made, and answered as described', () => {
    expect(operations('live').filter((one) => !called.has(one))).toEqual([]);
  });
});
