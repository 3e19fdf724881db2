import { agent, type Agent } from './agent.ts';
import { temporaryFolder } from './running.ts';
import { sampleSite, type SampleSite } from './sample.ts';

describe("the gateway's own addresses", () => {
  const folder = temporaryFolder();
  let sample: SampleSite;
  let mia: Agent;
  beforeAll(async () => {
    sample = await sampleSite(folder.path);
    mia = agent();
    await mia.follow(`${sample.gateway}/.kleidon/open-as?as=mia&to=/`);
  });
  afterAll(async () => {
    await sample.end();
    folder.remove();
  });
  const ask = (path: string, one = mia) => one.ask(`${sample.gateway}/.kleidon/${path}`);
  const bought = (wanted: string): string => `bought?return=${encodeURIComponent(wanted)}`;

  test('whoever has paid waits for the page, which asks again by itself', async () => {
    const before = Date.now();
    const { status, text, headers } = await ask(bought('/song-course/1?x="1"'));
    expect([status, text]).toEqual([200, expect.stringContaining('is being confirmed')]);
    const [, since] =
      /^1; url=\/\.kleidon\/bought\?return=%2Fsong-course%2F1%3Fx%3D%221%22&since=(\d+)$/.exec(
        headers.get('Refresh') ?? '',
      )!;
    expect(Number(since)).toBeGreaterThanOrEqual(before);
    expect(headers.get('Cache-Control')).toBe('no-store');
  });

  test('after a minute it says so, and asks less often', async () => {
    const old = `${bought('/song-course/1')}&since=${Date.now() - 61_000}`;
    const { text, headers } = await ask(old);
    expect(text).toMatch(/takes longer than usual.*signed in as Mia.*\/\.kleidon\/sign-out/s);
    expect(headers.get('Refresh')).toMatch(/^10; /);
    for (const since of ['soon', '-1', '1e99', String(Date.now() + 1e9)])
      expect(
        (await ask(`${bought('/song-course/1')}&since=${since}`)).headers.get('Refresh'),
      ).toMatch(/^1; /);
  });

  test('whoever reaches the page, or never would, is taken there', async () => {
    for (const wanted of ['/members', '/nowhere', '/tides']) {
      const { status, location } = await ask(bought(wanted));
      expect([status, location]).toEqual([303, sample.gateway + wanted]);
    }
  });

  test.each([
    ['another host', '//evil.example/x'],
    ['one by a backslash', '/\\evil.example'],
    ['another site', 'https://evil.example/'],
    ['what breaks the line', '/a\r\nSet-Cookie: x=1'],
    ['an address of the gateway', '/.kleidon/sign-out'],
    ['a script', 'javascript:alert(1)'],
    ['what is too long', '/a'.repeat(1500)],
  ])('nobody is taken to %s', async (_, wanted) => {
    const { status, location } = await ask(bought(wanted));
    expect([status, location]).toEqual([303, `${sample.gateway}/`]);
  });

  test('a guest is asked to sign in, and waits then', async () => {
    const guest = agent();
    const { status, text } = await ask(bought('/song-course/1'), guest);
    expect(status).toBe(200);
    const link = '/.kleidon/sign-in?bought=yes&amp;return=%2Fsong-course%2F1';
    expect(text).toContain(`href="${link}"`);
    const there = await guest.follow(sample.gateway + link.replace('&amp;', '&'));
    expect(there.at(-1)!.text).toContain('Who are you today?');
  });

  test('say who is asking, to pages of the site alone', async () => {
    const own = await ask('me');
    expect(JSON.parse(own.text)).toEqual({
      ...{ signedIn: true, id: 'mia', name: 'Mia', roles: ['member'], groups: [], purchases: [] },
    });
    expect(own.headers.get('Cross-Origin-Resource-Policy')).toBe('same-origin');
    expect(own.headers.get('Access-Control-Allow-Origin')).toBeNull();
    const cleo = agent();
    await cleo.follow(`${sample.gateway}/.kleidon/open-as?as=cleo&to=/`);
    expect(JSON.parse((await ask('me', cleo)).text)).toMatchObject({
      purchases: [{ product: 'song-course', title: 'Song course', state: 'in-force', until: null }],
    });
    expect(JSON.parse((await ask('me', agent())).text)).toMatchObject({
      ...{ signedIn: false, id: null, name: null },
    });
    for (const path of ['/%2ekleidon/me', '//.kleidon/me'])
      expect((await fetch(sample.gateway + path)).status).not.toBe(200);
  });
});
