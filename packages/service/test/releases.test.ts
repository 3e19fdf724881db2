import { setTimeout as later } from 'node:timers/promises';
import { createClient, type Client } from '@kleidon/client';
import { call, called, operations } from './described.ts';
import { run, temporaryFolder, type Running } from './running.ts';

const SMALL = `kleidon: 1
site: { name: Small, address: https://small.example, time-zone: Europe/London }
roles: { r: R }
pages: { /: Home, /a: A }
`;
const GATED = `${SMALL}gates: { g: { at: /a, admit: role r } }\n`;
const json = { 'Content-Type': 'application/json' };

describe('going live and back', () => {
  const folder = temporaryFolder();
  let service: Running;
  let client: Client;
  let count = 0;
  const start = async (): Promise<void> => {
    service = await run(folder.path);
    client = createClient(service.address);
  };
  /** A site of its own, with a gate in its second version. */
  const add = async (): Promise<string> => {
    const site = `site-${++count}`;
    await client.addSite(SMALL, site);
    await client.saveDraft(site, 1, GATED);
    return site;
  };
  const ask = (path: string, init?: RequestInit) => call(service.address, path, init);
  const send = (path: string, method: string, version: number, body?: object) =>
    ask(path, {
      method,
      headers: { ...json, 'If-Match': `"${version}"` },
      ...(body ? { body: JSON.stringify(body) } : {}),
    });
  const codeOf = async (response: Response): Promise<[number, string]> => [
    response.status,
    ((await response.json()) as { type: string }).type.replace('/api/problems/', ''),
  ];

  beforeAll(start);
  afterAll(async () => {
    await service.end();
    folder.remove();
  });

  test('what a draft that is no YAML has is not told to be gone', async () => {
    const site = await add();
    const { text, version } = await client.draft(site);
    const broken = await client.saveDraft(site, version, `${text}\n  - : [\n`);
    await client.saveDraft(site, broken.version, text);
    const versions = await client.draftVersions(site);
    expect(versions.map(({ says }) => says).slice(0, 2)).toEqual([
      ["What changed can't be told: the version before is not YAML"],
      ["What changed can't be told: this version is not YAML"],
    ]);
    await client.saveDraft(site, broken.version + 1, `${text}\n  - : [\n`);
    expect(await codeOf(await ask(`/api/sites/${site}/document`))).toEqual([
      422,
      'site-has-errors',
    ]);
  });

  test('each save is kept with what it changed, and any can be restored', async () => {
    const site = await add();
    await client.saveList(site, 2, 'old.csv', 'from,to\n/old,/a\n');
    const { versions } = (await (await ask(`/api/sites/${site}/draft/versions`)).json()) as {
      versions: { version: number; says: string[] }[];
    };
    expect(versions.map(({ version, says }) => [version, says])).toEqual([
      [3, ['List old.csv is saved']],
      [2, ['Gate g: at /a; admit role r']],
      [1, []],
    ]);
    expect(await (await ask(`/api/sites/${site}/draft/versions/2`)).json()).toMatchObject({
      text: GATED,
      patch: [
        { op: 'add', path: '/gates', value: {} },
        { op: 'add', path: '/gates/g', value: { at: '/a', admit: 'role r' } },
      ],
    });
    const restored = await send(`/api/sites/${site}/draft/versions/1/restore`, 'POST', 3);
    expect([restored.status, restored.headers.get('ETag')]).toEqual([200, '"4"']);
    expect((await client.draft(site)).text).toBe(SMALL);
    expect((await client.lists(site)).lists).toEqual([]);
    // What was restored from is still there, with its list.
    await client.restoreDraft(site, 4, 3);
    expect((await client.lists(site)).lists).toMatchObject([{ name: 'old.csv' }]);
    expect((await client.draftVersions(site))[0]!.says).toEqual([
      'Version 3 is restored',
      'Gate g: at /a; admit role r',
    ]);
    const stale = await send(`/api/sites/${site}/draft/versions/1/restore`, 'POST', 3);
    expect(await codeOf(stale)).toEqual([412, 'draft-changed']);
    const none = await send(`/api/sites/${site}/draft/versions/9/restore`, 'POST', 5);
    expect(await codeOf(none)).toEqual([404, 'no-such-version']);
  });

  test('a release says what it changed for whom, and an earlier one is made live again as a new one', async () => {
    const site = await add();
    await client.restoreDraft(site, 2, 1);
    await client.release(site, 3, 'First');
    await client.saveDraft(site, 3, GATED);
    const gated = await client.release(site, 4, 'Only for r');
    expect(gated.says).toEqual([
      'gate g added: −1 page for everyone, except anyone with the role r; −1 page for search engines',
    ]);
    const path = `/api/sites/${site}/releases/1/restore`;
    const back = await ask(path, { method: 'POST', headers: json, body: '{"note":"Open again"}' });
    expect([back.status, await back.json()]).toMatchObject([
      201,
      { number: 3, restores: 1, note: 'Open again', draftVersion: 3 },
    ]);
    expect((await client.findRelease(site, 3)).text).toBe(SMALL);
    // The draft stays as it is.
    expect((await client.draft(site)).text).toBe(GATED);
    const none = await ask(`/api/sites/${site}/releases/9/restore`, {
      method: 'POST',
      headers: json,
      body: '{"note":"x"}',
    });
    expect(await codeOf(none)).toEqual([404, 'no-such-release']);
  });

  test('a release is set for a time, and cancelled', async () => {
    const site = await add();
    const path = `/api/sites/${site}/scheduled-release`;
    const body = { note: 'Spring', at: '2077-07-01T09:00' };
    const made = await send(path, 'PUT', 2, body);
    expect([made.status, await made.json()]).toMatchObject([
      201,
      { draftVersion: 2, takesEffectAt: '2077-07-01T08:00:00.000Z' },
    ]);
    expect(await codeOf(await send(path, 'PUT', 2, body))).toEqual([409, 'release-scheduled']);
    expect(await codeOf(await send(path, 'PUT', 1, body))).toEqual([412, 'draft-changed']);
    expect(await codeOf(await send(path, 'PUT', 2, { ...body, at: '2020-01-01' }))).toEqual([
      400,
      'wrong-request',
    ]);
    expect(await codeOf(await send(path, 'PUT', 2, { ...body, at: 'soon' }))).toEqual([
      400,
      'wrong-request',
    ]);
    expect(await (await ask(path)).json()).toMatchObject({ scheduled: { note: 'Spring' } });
    expect((await ask(path, { method: 'DELETE' })).status).toBe(204);
    expect(await codeOf(await ask(path, { method: 'DELETE' }))).toEqual([404, 'nothing-scheduled']);
    expect(await client.releases(site)).toEqual([]);
  });

  test('a guarantee that is broken then is a reason against a set time', async () => {
    const site = await add();
    const promised = `${GATED.replace('admit: role r', 'admit: role r, until: 2077-01-01')}guarantees: [{ who: guest, never: reach, at: /a, until: 2077-06-01 }]\n`;
    await client.saveDraft(site, 2, promised);
    const path = `/api/sites/${site}/scheduled-release`;
    const refused = await send(path, 'PUT', 3, { note: 'x', at: '2077-02-01' });
    expect(await codeOf(refused)).toEqual([422, 'guarantee-broken']);
    const after = await send(path, 'PUT', 3, { note: 'x', at: '2077-07-01' });
    expect(after.status).toBe(201);
  });

  test('what goes live is what was checked, whatever is saved while it is checked', async () => {
    const site = await add();
    const broken = `${SMALL}guarantees: [{ who: guest, never: reach, at: /a }]\n`;
    // Nothing is known of it, so that it is checked behind the save that was sent first.
    await service.end();
    await start();
    const saving = client.saveDraft(site, 2, broken);
    // Asked for before that version is there: it must not be released by the check of the one before.
    const asked = [
      send(`/api/sites/${site}/releases`, 'POST', 3, { note: 'Too early' }),
      send(`/api/sites/${site}/scheduled-release`, 'PUT', 3, { note: 'x', at: '2077-01-01' }),
    ];
    await saving;
    for (const response of await Promise.all(asked))
      expect(['draft-changed', 'guarantee-broken']).toContain((await codeOf(response))[1]);
    // And the other way round: the draft changes while it is checked.
    const [released] = await Promise.all([
      send(`/api/sites/${site}/releases`, 'POST', 3, { note: 'Broken' }),
      client.saveDraft(site, 3, GATED),
    ]);
    expect(['draft-changed', 'guarantee-broken']).toContain((await codeOf(released))[1]);
    expect(await client.releases(site)).toEqual([]);
    expect(await client.scheduledRelease(site)).toBeNull();
  });

  test('a scheduled release takes effect once, whenever the service is killed', async () => {
    const sites = [await add(), await add(), await add()];
    const at = new Date(Date.now() + 4_000);
    for (const site of sites)
      await client.scheduleRelease(site, 2, { note: 'In time', at: at.toISOString() });
    // What is saved afterwards is not part of it.
    await client.saveDraft(sites[0]!, 2, SMALL);
    for (let kills = 0; kills < 6; kills++) {
      // At the time itself, and on either side of it.
      await later(Math.max(0, at.getTime() - Date.now()) / 2 + kills * 60);
      await service.end('SIGKILL');
      await start();
    }
    await later(Math.max(0, at.getTime() - Date.now()) + 1_500);
    for (const site of sites) {
      const releases = await client.releases(site);
      expect(releases).toMatchObject([{ number: 1, note: 'In time', draftVersion: 2 }]);
      expect(releases[0]!.scheduledFor).toBe(at.toISOString());
      expect((await client.findRelease(site, 1)).text).toBe(GATED);
      expect(await client.scheduledRelease(site)).toBeNull();
    }
  });

  test('every call was made', () => {
    expect(operations('releases').filter((one) => !called.has(one))).toEqual([]);
  });
});
