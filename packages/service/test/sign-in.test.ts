import { writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { once } from 'node:events';
import { connect, type AddressInfo } from 'node:net';
import { join } from 'node:path';
import { agent, type Agent, type Page } from './agent.ts';
import { sampleSite, type SampleSite } from './sample.ts';
import { run, SAMPLE, temporaryFolder } from './running.ts';
import { kleidon } from '../../cli/test/cli.ts';

const SESSION = 'kleidon-session';

describe('signing in at the gateway', () => {
  const folder = temporaryFolder();
  let site: SampleSite;
  let home: string;

  beforeAll(async () => {
    site = await sampleSite(folder.path);
    home = site.gateway;
  });
  afterAll(async () => {
    await site.end();
    folder.remove();
  });

  /** Signs in as people do: the link on the sign-in page, then a choice at the provider. */
  const signIn = async (who: Agent, name: string, back?: string): Promise<Page> => {
    const query = back === undefined ? '' : `?return=${encodeURIComponent(back)}`;
    const asked = (await who.follow(`${home}/.kleidon/sign-in${query}`)).at(-1)!;
    expect(asked.text).toContain('Who are you today?');
    return (await who.follow(`${asked.url}?as=${name}`)).at(-1)!;
  };
  const secretOf = async ({ jar }: Agent): Promise<string | undefined> =>
    (await jar.getCookies(home)).find(({ key }) => key === SESSION)?.value;

  test('a guest is asked to sign in, and comes back to the page asked for first', async () => {
    const vik = agent();
    const [first, asked] = await vik.follow(`${home}/members/photos`);
    expect([first!.status, asked!.url]).toEqual([
      303,
      `${home}/sign-in?return=%2Fmembers%2Fphotos`,
    ]);
    expect(asked!.text).toContain('name="return" value="/members/photos"');
    const landed = await signIn(vik, 'vik', '/members/photos');
    expect([landed.status, landed.url]).toEqual([200, `${home}/members/photos`]);
    expect(landed.text).toContain('Photos by members');
  });

  test.each([
    ['wren', '/members', '/crew/rota', 'a landing that does not go back first'],
    ['vik', '/trustees', '/members', 'a page that they do not reach'],
    ['vik', undefined, '/members', 'nothing asked for before'],
    ['vik', 'https://evil.example/', '/members', 'another site'],
    ['vik', '//evil.example/', '/members', 'another host'],
    ['vik', '/\\evil.example', '/members', 'a backslash'],
    ['vik', '/\t/evil.example', '/members', 'a tab'],
    ['vik', 'javascript:alert(1)', '/members', 'a script'],
    ['vik', '/.kleidon/sign-out', '/members', 'an address of the gateway'],
  ])('%s who came from %s lands at %s: %s', async (name, back, landing, _) => {
    const landed = await signIn(agent(), name, back);
    expect(landed.url).toBe(home + landing);
  });

  test('the cookie of a session tells nothing, and is for this site alone', async () => {
    const who = agent();
    const asked = (await who.follow(`${home}/.kleidon/sign-in`)).at(-1)!;
    const pages = await who.follow(`${asked.url}?as=vik`);
    const set = pages.flatMap(({ headers }) => headers.getSetCookie());
    const given = set.find((one) => one.startsWith(`${SESSION}=`))!;
    expect(given).toMatch(/^kleidon-session=[\w-]{43}; Path=\/; HttpOnly; SameSite=Lax$/);
    expect(set.find((one) => /^kleidon-way-.*Max-Age=0/.test(one))).toBeDefined();
    const came = pages.find(({ url }) => url.includes('/.kleidon/signed-in'))!;
    expect(came.headers.get('Cache-Control')).toBe('no-store');
  });

  test('each sign-in gives another secret, and the one before is worth nothing', async () => {
    const who = agent();
    await signIn(who, 'vik');
    const first = await secretOf(who);
    await who.follow(`${home}/.kleidon/open-as?as=vik&to=/crew`);
    const second = await secretOf(who);
    expect(second).not.toBe(first);
    const old = await agent().ask(`${home}/crew/rota`, {
      headers: { Cookie: `${SESSION}=${first}` },
    });
    expect(old.status).toBe(303);
    expect((await who.ask(`${home}/crew/rota`)).status).toBe(200);
  });

  test('signing out ends the session here and at the provider, and lands at home', async () => {
    const who = agent();
    await signIn(who, 'vik');
    const secret = await secretOf(who);
    const question = await who.ask(`${home}/.kleidon/sign-out`);
    expect(question.text).toContain('You are signed in as Vik.');
    const [out, there] = await who.follow(`${home}/.kleidon/sign-out`, { method: 'POST' });
    expect([out!.status, there!.url]).toEqual([303, expect.stringContaining('/session/end')]);
    expect(there!.text).toContain('Signing out');
    const replayed = await agent().ask(`${home}/crew/rota`, {
      headers: { Cookie: `${SESSION}=${secret}` },
    });
    expect([replayed.status, replayed.location]).toEqual([
      303,
      expect.stringContaining('/sign-in'),
    ]);
    // As the form of the provider does.
    const form = Object.fromEntries(
      [...there!.text.matchAll(/<input type="hidden" name="(\w+)" value="([^"]*)"/g)].map(
        ([, name, value]) => [name!, value!] as const,
      ),
    );
    const ended = await who.follow(/action="([^"]+)"/.exec(there!.text)![1]!, {
      method: 'POST',
      body: new URLSearchParams(form),
    });
    expect(ended.map(({ url }) => new URL(url).pathname)).toContain('/.kleidon/signed-out');
    expect(ended.at(-1)!.url).toBe(`${home}/`);
    const again = await who.ask(`${home}/.kleidon/sign-out`);
    expect(again.text).toContain('You are not signed in.');
  });

  test('a form that another site sends, without the cookie, signs nobody out', async () => {
    const answer = await agent().ask(`${home}/.kleidon/sign-out`, { method: 'POST' });
    expect([answer.status, answer.headers.getSetCookie()]).toEqual([303, []]);
  });

  test('signing out on all devices ends every session of the visitor, and nobody else’s', async () => {
    const [here, there, wren] = [agent(), agent(), agent()];
    await signIn(here, 'vik');
    await signIn(there, 'vik');
    await signIn(wren, 'wren');
    await here.ask(`${home}/.kleidon/sign-out`, {
      method: 'POST',
      body: new URLSearchParams({ everywhere: 'yes' }),
    });
    expect((await there.ask(`${home}/crew`)).status).toBe(303);
    expect((await wren.ask(`${home}/crew`)).status).toBe(200);
  });

  test.each([
    ['made up', `${SESSION}=${'a'.repeat(43)}`],
    ['empty', `${SESSION}=`],
    ['a hash from the database', `${SESSION}=${'0'.repeat(64)}`],
    ['an injection', `${SESSION}=' or 1=1 --`],
    ['the name of another cookie', `__Host-${SESSION}=x`],
    ['very long', `${SESSION}=${'x'.repeat(4000)}`],
  ])('a forged cookie is a guest’s: %s', async (_, cookie) => {
    const answer = await agent().ask(`${home}/crew/rota`, { headers: { Cookie: cookie } });
    expect([answer.status, answer.location]).toEqual([303, expect.stringContaining('/sign-in')]);
  });

  test('a real secret beside a forged one counts as neither', async () => {
    const who = agent();
    await signIn(who, 'vik');
    const secret = await secretOf(who);
    const twice = `${SESSION}=${'a'.repeat(43)}; ${SESSION}=${secret}`;
    const answer = await agent().ask(`${home}/crew`, { headers: { Cookie: twice } });
    expect(answer.status).toBe(303);
  });

  test('as raw bytes: cookies in two fields, replayed, or with what ends a field in them', async () => {
    const who = agent();
    await signIn(who, 'vik');
    const secret = await secretOf(who);
    const { hostname, port, host } = new URL(home);
    const status = async (...cookies: string[]): Promise<string | undefined> => {
      const socket = connect(Number(port), hostname);
      let answer = '';
      socket.on('data', (chunk) => (answer += chunk.toString('latin1')));
      const fields = cookies.map((one) => `Cookie: ${one}\r\n`).join('');
      socket.write(`GET /crew HTTP/1.1\r\nHost: ${host}\r\n${fields}Connection: close\r\n\r\n`);
      await once(socket, 'close');
      return /^HTTP\/1\.1 (\d+)/.exec(answer)?.[1];
    };
    const own = `${SESSION}=${secret}`;
    expect(await status(own)).toBe('200');
    expect(await status('a=1', own)).toBe('200');
    expect(await status(`${SESSION}=${'a'.repeat(43)}`, own)).toBe('303');
    expect(await status(`${SESSION}=\u0000${secret}`)).toBe('400');
    expect(await status(`KLEIDON-SESSION=${secret}`)).toBe('303');
    expect(await status(`x${own}`)).toBe('303');
    await who.ask(`${home}/.kleidon/sign-out`, { method: 'POST' });
    expect(await status(own)).toBe('303');
    expect(await status(own, own)).toBe('303');
  });

  test('the way of a sign-in is for the browser that began it, and for once', async () => {
    const [who, thief] = [agent(), agent()];
    const asked = (await who.follow(`${home}/.kleidon/sign-in`)).at(-1)!;
    let step = await who.ask(`${asked.url}?as=vik`);
    while (!step.location!.includes('/.kleidon/signed-in')) step = await who.ask(step.location!);
    const back = step.location!;
    const stolen = await thief.ask(back);
    expect([stolen.status, stolen.text]).toEqual([400, expect.stringContaining('has run out')]);
    expect(await secretOf(thief)).toBeUndefined();
    const wrong = await who.ask(back.replace(/state=[^&]+/, 'state=made-up'));
    expect(wrong.status).toBe(400);
    expect((await who.ask(back)).status).toBe(303);
    expect((await who.ask(back)).status).toBe(400);
  });

  test('a code that the provider did not give signs nobody in', async () => {
    const who = agent();
    const begun = await who.ask(`${home}/.kleidon/sign-in`);
    const state = new URL(begun.location!).searchParams.get('state')!;
    const answer = await who.ask(
      `${home}/.kleidon/signed-in?code=made-up&state=${state}&iss=${encodeURIComponent(site.identity.address)}`,
    );
    expect([answer.status, answer.text]).toEqual([
      502,
      expect.stringContaining('Signing in did not work'),
    ]);
    expect(await secretOf(who)).toBeUndefined();
  });

  test('whoever cancels at the provider is told so, and nothing failed', async () => {
    const who = agent();
    const asked = (await who.follow(`${home}/.kleidon/sign-in`)).at(-1)!;
    const came = (await who.follow(`${asked.url}?cancel=yes`)).at(-1)!;
    expect([came.status, came.url.startsWith(`${home}/.kleidon/signed-in?`)]).toEqual([403, true]);
    expect(came.text).toContain('You did not sign in');
    expect(came.headers.getSetCookie().join()).toMatch(/kleidon-way-.*Max-Age=0/);
    expect(await secretOf(who)).toBeUndefined();
  });

  test('a page asked for first may have any letters', async () => {
    const landed = await signIn(agent(), 'vik', '/crew/rota?week=ü');
    expect([landed.status, landed.url]).toEqual([200, `${home}/crew/rota?week=%C3%BC`]);
  });

  test('the gateway’s own addresses are its own however they are spelled', async () => {
    const { port, hostname } = new URL(home);
    for (const path of ['/%2ekleidon/sign-in', '/x/../.kleidon/sign-in', '/.%6bleidon/sign-in']) {
      const socket = connect(Number(port), hostname);
      socket.write(
        `GET ${path} HTTP/1.1\r\nHost: ${hostname}:${port}\r\nConnection: close\r\n\r\n`,
      );
      let said = '';
      socket.on('data', (chunk: Buffer) => (said += chunk.toString()));
      await once(socket, 'close');
      expect(said).toMatch(/^HTTP\/1\.1 (?:303|404) /);
      // The website has no such field.
      expect(said).toMatch(/^Referrer-Policy: no-referrer/m);
    }
  });

  test('the log has nothing of what a sign-in must keep to itself', async () => {
    const who = agent();
    const answers = await Promise.all([
      who.ask(`${home}/.kleidon/signed-in?code=SECRET-CODE&state=SECRET-STATE`),
      who.ask(`${home}/crew/rota?code=SECRET-CODE&state=SECRET-STATE%0d%0aforged`),
      who.ask(`${home}/.kleidon/sign-in?return=/SECRET-STATE\u00fc`),
    ]);
    expect(answers.map(({ status }) => status)).toEqual([400, 303, 303]);
    expect(site.service().log()).not.toMatch(/SECRET/);
  });

  test('the request to the provider has PKCE, state and nonce', async () => {
    const { location } = await agent().ask(`${home}/.kleidon/sign-in`);
    const query = Object.fromEntries(new URL(location!).searchParams);
    expect(query).toMatchObject({
      response_type: 'code',
      client_id: 'merrow-point',
      code_challenge_method: 'S256',
      scope: 'openid profile email',
      redirect_uri: `${home}/.kleidon/signed-in`,
    });
    for (const field of ['state', 'nonce', 'code_challenge'])
      expect(query[field]).toMatch(/^[\w-]{43}$/);
  });

  test('a test sign-in shows every claim and what it became, and signs nobody in', async () => {
    const who = agent();
    const asked = (await who.follow(`${home}/.kleidon/test-sign-in`)).at(-1)!;
    const page = (await who.follow(`${asked.url}?as=petra`)).at(-1)!;
    expect(page.status).toBe(200);
    const rows = [...page.text.matchAll(/<tr><td>(.*?)<\/td><td>(.*?)<\/td><td>(.*?)<\/td>/g)].map(
      ([, claim, value, became]) => [claim, value, became],
    );
    expect(rows).toContainEqual(['sub', 'petra', 'id petra']);
    expect(rows).toContainEqual(['email', 'petra@merrowpoint.example', 'visitor.email']);
    expect(rows).toContainEqual([
      'bought',
      expect.stringContaining('hide-permit'),
      'hide-permit until 2027-05-01',
    ]);
    expect(rows.find(([claim]) => claim === 'nonce')?.[2]).toBe('about the sign-in itself');
    expect(page.text).toContain('You would be Petra (hide-permit until 2027-05-01).');
    expect(await secretOf(who)).toBeUndefined();
  });

  test('sessions are listed without what lets one pose as someone, and can be ended', async () => {
    const who = agent();
    await signIn(who, 'cleo');
    const at = `${site.service().address}/api/sites/merrow-point/sessions`;
    const list = (await (await fetch(at)).json()) as {
      all: number;
      sessions: { session: string; visitor: string }[];
    };
    const own = list.sessions.find(({ visitor }) => visitor === 'cleo')!;
    expect(list.all).toBe(list.sessions.length);
    expect(JSON.stringify(list)).not.toContain((await secretOf(who))!);
    expect((await fetch(`${at}/${own.session}`, { method: 'DELETE' })).status).toBe(204);
    expect((await fetch(`${at}/${own.session}`, { method: 'DELETE' })).status).toBe(404);
    expect((await who.ask(`${home}/song-course/1`)).status).toBe(303);
  });

  test('the website never sees the cookies of the gateway', async () => {
    const told: string[] = [];
    const origin = createServer((request, response) => {
      told.push(request.headers.cookie ?? '');
      response.setHeader('Set-Cookie', [`${SESSION}=fixed; Path=/`, 'basket=3']);
      response.end('ok');
    }).listen(0, '127.0.0.1');
    await once(origin, 'listening');
    const other = temporaryFolder();
    const own = await sampleSite(other.path, {
      origin: `http://127.0.0.1:${(origin.address() as AddressInfo).port}`,
    });
    try {
      const who = agent();
      await who.follow(`${own.gateway}/.kleidon/open-as?as=vik&to=/crew`);
      await who.jar.setCookie('theme=dark', own.gateway);
      const answer = await who.ask(`${own.gateway}/crew`);
      expect(
        told
          .at(-1)!
          .split('; ')
          .filter((one) => one.startsWith('kleidon')),
      ).toEqual([]);
      expect(told.at(-1)).toContain('theme=dark');
      expect(answer.headers.getSetCookie()).toEqual(['basket=3']);
    } finally {
      await own.end();
      origin.close();
      other.remove();
    }
  });

  test('what goes on ends within two seconds once the session is ended', async () => {
    const website = createServer((request, response) => {
      if (request.url !== '/crew/rota') return void response.end();
      response.writeHead(200, { 'Content-Type': 'text/event-stream' });
      response.write('data: 1\n\n');
    }).listen(0, '127.0.0.1');
    await once(website, 'listening');
    const apart = temporaryFolder();
    const { port } = website.address() as AddressInfo;
    const other = await sampleSite(apart.path, { origin: `http://127.0.0.1:${port}` });
    const vik = agent();
    await vik.follow(`${other.gateway}/.kleidon/open-as?as=vik&to=/sign-in`);
    const cookie = await vik.jar.getCookieString(other.gateway);
    const stream = await fetch(`${other.gateway}/crew/rota`, { headers: { Cookie: cookie } });
    const reader = stream.body!.getReader();
    expect((await reader.read()).done).toBe(false);
    const began = performance.now();
    await fetch(`${other.service().address}/api/sites/merrow-point/sessions?visitor=vik`, {
      method: 'DELETE',
    });
    await expect(reader.read()).rejects.toThrow();
    expect(performance.now() - began).toBeLessThan(2500);
    website.closeAllConnections();
    website.close();
    await other.end();
    apart.remove();
  });

  test('sessions live on when the service is killed', async () => {
    const who = agent();
    await signIn(who, 'vik');
    await site.restart('SIGKILL');
    expect((await who.ask(`${home}/crew`)).status).toBe(200);
  });

  test('a provider that is away is said, and the rest of the site goes on', async () => {
    const other = temporaryFolder();
    const settings = join(other.path, 'kleidon.yaml');
    writeFileSync(
      settings,
      `gateways:
  - { site: merrow-point, port: 0, origin: "${site.website.address}", sign-in: { provider: "http://127.0.0.1:1", client: x, secret: y } }
`,
    );
    const service = await run(other.path, '--settings', settings, '--log-level', 'silent');
    try {
      await kleidon(['sites', 'add', SAMPLE, '--id', 'merrow-point', '--service', service.address]);
      await kleidon(['release', '--note', 'x', '--service', service.address]);
      const answer = await agent().ask(`${service.gateway}/.kleidon/sign-in`);
      expect([answer.status, answer.text]).toEqual([
        502,
        expect.stringContaining('The identity provider http://127.0.0.1:1 can&#39;t be asked.'),
      ]);
      expect((await agent().ask(`${service.gateway}/.kleidon/open-as?as=vik&to=/`)).status).toBe(
        404,
      );
      expect((await agent().ask(`${service.gateway}/`)).status).toBe(200);
    } finally {
      await service.end();
      other.remove();
    }
  });
});
