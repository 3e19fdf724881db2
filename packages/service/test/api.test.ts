import { once } from 'node:events';
import { readFileSync } from 'node:fs';
import { request as sendRequest, type IncomingMessage } from 'node:http';
import { connect } from 'node:net';
import { call, called, description, operations } from './described.ts';
import { run, SAMPLE, temporaryFolder, type Running } from './running.ts';

const sample = readFileSync(SAMPLE, 'utf8');
const yaml = { 'Content-Type': 'application/yaml' };
const json = { 'Content-Type': 'application/json' };
const SMALL =
  'kleidon: 1\nsite: { name: Small, address: https://small.example }\npages: { /: Home }\n';
const BROKEN = 'kleidon: 1\nsite: { name: Small }\n';

describe('the HTTP interface', () => {
  const folder = temporaryFolder();
  let service: Running;
  const ask = (path: string, init?: RequestInit) => call(service.address, path, init);
  const add = (id: string, text = SMALL) =>
    ask(`/api/sites?id=${id}`, { method: 'POST', headers: yaml, body: text });
  const put = (id: string, version: string | null, text: string) =>
    ask(`/api/sites/${id}/draft`, {
      method: 'PUT',
      headers: { ...yaml, ...(version === null ? {} : { 'If-Match': version }) },
      body: text,
    });
  const release = (id: string, version: string, body: object = { note: 'why' }) =>
    ask(`/api/sites/${id}/releases`, {
      method: 'POST',
      headers: { ...json, 'If-Match': version },
      body: JSON.stringify(body),
    });
  const problem = async (response: Response) => {
    expect(response.headers.get('Content-Type')).toContain('application/problem+json');
    const { type, status, remedy } = (await response.json()) as {
      type: string;
      status: number;
      remedy: string;
    };
    expect(status).toBe(response.status);
    expect(remedy).toMatch(/\w/);
    return [response.status, type.replace('/api/problems/', '')];
  };

  beforeAll(async () => {
    service = await run(folder.path, '--max-body', '1');
    await add('merrow', sample);
  });
  afterAll(async () => {
    await service.end();
    folder.remove();
  });

  test('says that it is up, and what it does', async () => {
    expect(await (await ask('/healthz')).json()).toEqual({ status: 'ok' });
    expect(await (await ask('/api/openapi.json')).json()).toEqual(description);
  });

  test('adds, lists and reads sites', async () => {
    const added = await add('first');
    expect([added.status, added.headers.get('Location'), added.headers.get('ETag')]).toEqual([
      201,
      '/api/sites/first',
      '"1"',
    ]);
    const { sites } = (await (await ask('/api/sites')).json()) as { sites: { id: string }[] };
    expect(sites.map(({ id }) => id)).toContain('first');
    expect(await (await ask('/api/sites/first')).json()).toMatchObject({
      name: 'Small',
      draft: { version: 1, errors: 0 },
      live: null,
    });
    expect(await problem(await add('first'))).toEqual([409, 'site-exists']);
    expect(await problem(await add('../x'))).toEqual([400, 'wrong-request']);
  });

  test("makes the id of a site from its name, and asks for one where the file can't be read", async () => {
    const named = await ask('/api/sites', {
      method: 'POST',
      headers: yaml,
      body: SMALL.replace('Small', 'Café & Söhne!'),
    });
    expect(named.headers.get('Location')).toBe('/api/sites/cafe-sohne');
    expect(
      await problem(await ask('/api/sites', { method: 'POST', headers: yaml, body: 'site: [' })),
    ).toEqual([400, 'wrong-request']);
  });

  test('reads a draft as YAML or JSON, and replaces it only for who has seen it', async () => {
    await add('locked');
    const raw = await ask('/api/sites/locked/draft', { headers: { Accept: 'application/yaml' } });
    expect([await raw.text(), raw.headers.get('ETag')]).toEqual([SMALL, '"1"']);
    expect(await problem(await put('locked', null, SMALL))).toEqual([428, 'version-needed']);
    expect(await problem(await put('locked', 'W/"1"', SMALL))).toEqual([400, 'wrong-request']);
    const saved = await put('locked', '"1"', `${SMALL}# one`);
    expect([saved.status, saved.headers.get('ETag')]).toEqual([200, '"2"']);
    const second = await put('locked', '"1"', `${SMALL}# two`);
    expect(await second.clone().json()).toMatchObject({ version: 2 });
    expect(await problem(second)).toEqual([412, 'draft-changed']);
    expect(await (await ask('/api/sites/locked/draft')).json()).toMatchObject({
      version: 2,
      text: `${SMALL}# one`,
    });
  });

  const patch = (
    id: string,
    version: string,
    body: unknown,
    type = 'application/json-patch+json',
  ) =>
    ask(`/api/sites/${id}/draft`, {
      method: 'PATCH',
      headers: { 'Content-Type': type, 'If-Match': version },
      body: JSON.stringify(body),
    });

  test('changes parts of a draft, and leaves the rest as it was', async () => {
    await add('patched', `${SMALL}# a comment\n`);
    const saved = await patch('patched', '"1"', [{ op: 'add', path: '/pages/~1a', value: 'A' }]);
    expect([saved.status, saved.headers.get('ETag')]).toEqual([200, '"2"']);
    const { text } = (await (await ask('/api/sites/patched/draft')).json()) as { text: string };
    expect(text).toBe(`${SMALL.replace('{ /: Home }', '{ /: Home, /a: A }')}# a comment\n`);
    expect(
      await problem(await patch('patched', '"1"', [{ op: 'remove', path: '/pages/~1a' }])),
    ).toEqual([412, 'draft-changed']);
    expect(
      await problem(await patch('patched', '"2"', [{ op: 'remove', path: '/pages/~1none' }])),
    ).toEqual([422, 'patch-failed']);
    expect(
      await problem(await patch('patched', '"2"', [{ op: 'add', path: '/pages/~1b' }])),
    ).toEqual([400, 'wrong-request']);
    expect(await problem(await patch('patched', '"2"', {}))).toEqual([400, 'wrong-request']);
    expect(await problem(await patch('patched', '"2"', [], 'application/json'))).toEqual([
      415,
      'wrong-media-type',
    ]);
  });

  test('saves a draft that has errors, says what they are, and does not release it', async () => {
    await add('broken');
    expect(await (await put('broken', '"1"', BROKEN)).json()).toMatchObject({
      version: 2,
      errors: [{ line: 2, code: 'missing-field' }],
    });
    expect(await problem(await release('broken', '"2"'))).toEqual([422, 'site-has-errors']);
    expect(await problem(await ask('/api/sites/broken/grid'))).toEqual([422, 'site-has-errors']);
  });

  test('releases what breaks a guarantee only with a reason, which it records', async () => {
    await add('promised');
    const broken = `${SMALL}guarantees: [{ who: guest, never: reach, note: Never }]\n`;
    const saved = await put('promised', '"1"', broken);
    expect(saved.status).toBe(200);
    const refused = await release('promised', '"2"');
    expect(await refused.clone().json()).toMatchObject({
      guarantees: [
        { name: '#1', is: 'refuted', witness: { visitor: { guest: true }, address: '/' } },
      ],
    });
    expect(await problem(refused)).toEqual([422, 'guarantee-broken']);
    expect(await problem(await release('promised', '"2"', { note: 'n', override: ' ' }))).toEqual([
      422,
      'guarantee-broken',
    ]);
    const made = await release('promised', '"2"', { note: 'n', override: 'For one day' });
    expect([made.status, await made.json()]).toMatchObject([201, { override: 'For one day' }]);
    // What breaks nothing needs no reason, and none is recorded.
    await put('promised', '"2"', SMALL);
    await release('promised', '"3"', { note: 'n', override: 'Not needed' });
    const { releases } = (await (await ask('/api/sites/promised/releases')).json()) as {
      releases: object[];
    };
    expect(releases).toMatchObject([
      { number: 2, override: null },
      { number: 1, override: 'For one day' },
    ]);
  });

  test('tells the kinds of visitors of a section, and draws the grid for them', async () => {
    const kinds = await ask('/api/sites/merrow/kinds?under=/permit');
    expect(await kinds.json()).toMatchObject({
      pages: 3,
      mostTraits: null,
      kinds: [{ name: 'guest' }, { name: 'signed-in' }, { name: 'administrator', pages: 3 }],
    });
    const grid = await ask('/api/sites/merrow/grid?under=/permit&kinds=yes');
    expect(await grid.json()).toMatchObject({
      visitors: [{ name: 'guest' }, { name: 'signed-in' }, { name: 'administrator' }],
      rows: [{ address: '/permit', cellOf: [0, 1, 2] }, {}, {}],
    });
    expect(await problem(await ask('/api/sites/merrow/kinds?under=permit'))).toEqual([
      400,
      'wrong-request',
    ]);
  });

  test('numbers releases, and keeps what each of them was', async () => {
    await add('live');
    expect(await problem(await ask('/api/sites/live/grid?state=live'))).toEqual([
      404,
      'no-such-release',
    ]);
    const first = await release('live', '"1"');
    expect([first.status, first.headers.get('Location')]).toEqual([
      201,
      '/api/sites/live/releases/1',
    ]);
    await put('live', '"1"', SMALL.replace('Home', 'Start'));
    expect(await problem(await release('live', '"1"'))).toEqual([412, 'draft-changed']);
    expect(await problem(await release('live', '"2"', {}))).toEqual([400, 'wrong-request']);
    expect(await problem(await release('live', '"2"', { note: ' ' }))).toEqual([
      400,
      'wrong-request',
    ]);
    expect((await release('live', '"2"', { note: 'again' })).status).toBe(201);
    expect(await problem(await release('live', '"2"', { note: 'n', reason: 'x' }))).toEqual([
      400,
      'wrong-request',
    ]);
    const { releases } = (await (await ask('/api/sites/live/releases')).json()) as {
      releases: { number: number; note: string }[];
    };
    expect(releases.map(({ number, note }) => [number, note])).toEqual([
      [2, 'again'],
      [1, 'why'],
    ]);
    expect(
      await (
        await ask('/api/sites/live/releases/1', { headers: { Accept: 'application/yaml' } })
      ).text(),
    ).toBe(SMALL);
    expect(await problem(await ask('/api/sites/live/releases/9'))).toEqual([
      404,
      'no-such-release',
    ]);
    expect(await problem(await ask('/api/sites/live/releases/x'))).toEqual([400, 'wrong-request']);
    const title = async (state: string) =>
      (
        (await (await ask(`/api/sites/live/grid?state=${state}`)).json()) as {
          rows: { title: string }[];
        }
      ).rows[0]!.title;
    expect([await title('1'), await title('2'), await title('live'), await title('draft')]).toEqual(
      ['Home', 'Start', 'Start', 'Start'],
    );
  });

  test('checks a file without keeping it, and a site in any state', async () => {
    const checked = await ask('/api/check', { method: 'POST', headers: yaml, body: BROKEN });
    expect(await checked.json()).toMatchObject({
      errors: [{ file: 'site.yaml', line: 2 }],
      findings: [],
    });
    expect(await (await ask('/api/sites/merrow/check')).json()).toMatchObject({
      errors: [],
      findings: [],
    });
    expect(await problem(await ask('/api/sites/merrow/check?state=newest'))).toEqual([
      400,
      'wrong-request',
    ]);
  });

  test('tells the names that visitors may be made up from', async () => {
    expect(await (await ask('/api/sites/merrow/names')).json()).toMatchObject({
      products: { 'hide-permit': 'Hide permit' },
    });
  });

  test('takes no query parameter that is not described, in any call', async () => {
    const refused = await ask('/api/sites/merrow/grid?stat=live&at=2026-11-23');
    expect(await refused.clone().json()).toMatchObject({
      errors: [
        { parameter: 'stat', message: expect.stringContaining('Did you mean "state"?') as string },
      ],
    });
    for (const [path, init] of [
      ['/api/sites?x=1', {}],
      ['/api/sites/merrow/draft?state=live', {}],
      [
        '/api/sites/merrow/visits?as=vik',
        { method: 'POST', headers: json, body: '{"address":"/"}' },
      ],
      ['/api/openapi.json?x', {}],
      ['/healthz?x=1', {}],
    ] as const)
      expect([path, ...(await problem(await ask(path, init)))]).toEqual([
        path,
        400,
        'wrong-request',
      ]);
  });

  test('a state and a moment are asked for in the query of every call, and nowhere else', async () => {
    const text = 'kleidon: 1\nsite: { name: S, address: https://s.example }\n';
    const post = (path: string, body: object) =>
      fetch(`${service.address}/api/sites/states/${path}`, {
        method: 'POST',
        headers: json,
        body: JSON.stringify(body),
      });
    await ask('/api/sites?id=states', {
      method: 'POST',
      headers: yaml,
      body: `${text}pages: { /: Home, /later: { title: L, from: 2030-01-01 } }\n`,
    });
    await ask('/api/sites/states/releases', {
      method: 'POST',
      headers: { ...json, 'If-Match': '"1"' },
      body: '{"note":"First"}',
    });
    await ask('/api/sites/states/draft', {
      method: 'PUT',
      headers: { ...yaml, 'If-Match': '"1"' },
      body: `${text}pages: { /: Home }\nredirects: [{ from: /later, to: / }]\n`,
    });
    const guest = { visitor: { guest: true } };
    const outcome = async (query: string) =>
      (
        (await (await post(`visits${query}`, { address: '/later', ...guest })).json()) as {
          outcome: string;
        }
      ).outcome;
    expect([
      await outcome(''),
      await outcome('?state=live'),
      await outcome('?state=1&at=2031-01-01'),
    ]).toEqual(['reach', 'missing', 'reach']);
    for (const [path, body] of [
      ['visits', { address: '/', ...guest }],
      ['visit-lists', { addresses: ['/'] }],
      ['reached-by', guest],
      ['landings', { after: 'sign-in', ...guest }],
      ['visible', guest],
      ['effect', { edits: [] }],
      ['conditions', { text: 'anyone' }],
    ] as const) {
      expect([path, (await post(`${path}?state=live`, body)).status]).toEqual([path, 200]);
      expect([path, (await post(path, { ...body, state: 'live' })).status]).toEqual([path, 400]);
      expect([path, (await post(`${path}?state=none`, body)).status]).toEqual([path, 400]);
    }
  });

  const visit = (body: unknown, headers: Record<string, string> = json, query = '') =>
    ask(`/api/sites/merrow/visits${query}`, {
      method: 'POST',
      headers,
      body: typeof body === 'string' ? body : JSON.stringify(body),
    });

  test.each([
    [{ address: '/crew', as: 'gale' }, 'sign-in'],
    [{ address: '/crew', as: 'vik' }, 'reach'],
    [{ address: '/crew/rota', as: 'vik', method: 'POST' }, 'block'],
    [{ address: '/crew', visitor: { roles: ['warden'] } }, 'reach'],
    [
      {
        address: '/permit',
        visitor: { bought: [{ product: 'hide-permit', until: '2026-01-01' }] },
      },
      'block',
    ],
    [{ address: '/spring-count', as: 'gale', at: '2027-04-01' }, 'reach'],
    [{ address: '/crew%2frota', as: 'gale' }, 'invalid'],
  ])('a visit %j ends as %s', async (asked, outcome) => {
    const { at, ...body } = { at: undefined, ...asked };
    const query = at === undefined ? '' : `?at=${at}`;
    expect(await (await visit(body, json, query)).json()).toMatchObject({ outcome });
  });

  test.each([
    '/%',
    '//x',
    '/crew%2frota',
    '/CREW/../crew/rota',
    `/${'x'.repeat(10_000)}`,
    '/crew\u0000',
    '',
    '\\',
    '/crew\uD800',
  ])('no address makes it fail: %j', async (address) => {
    const response = await visit({ address, as: 'gale' });
    expect(response.status).toBe(200);
    expect(((await response.json()) as { outcome: string }).outcome).not.toBe('reach');
  });

  test.each([
    [{}, 400, 'wrong-request'],
    [{ address: '/', as: 'nobody' }, 404, 'no-such-visitor'],
    [{ address: '/' }, 400, 'wrong-request'],
    [{ address: '/', visitor: { roles: ['king'] } }, 400, 'wrong-request'],
    [{ address: '/', visitor: { crown: true } }, 400, 'wrong-request'],
    [{ address: '/', as: 'gale', at: 'soon' }, 400, 'wrong-request'],
    [{ address: '/', as: 'gale', who: 'x' }, 400, 'wrong-request'],
    [{ address: 5, as: 'gale' }, 400, 'wrong-request'],
    ['[1', 400, 'wrong-request'],
    ['[]', 400, 'wrong-request'],
  ])('a visit %j is refused: %i %s', async (body, status, code) => {
    expect(await problem(await visit(body))).toEqual([status, code]);
  });

  test('filters the grid', async () => {
    const response = await ask(
      '/api/sites/merrow/grid?under=/crew&visitor=gale,vik&outcome=block&at=2026-11-23',
    );
    const grid = (await response.json()) as {
      at: string;
      visitors: { name: string }[];
      rows: { address: string }[];
    };
    expect(grid.visitors.map(({ name }) => name)).toEqual(['gale', 'vik']);
    expect(grid.rows.map(({ address }) => address)).toEqual([
      '/crew/ringing-log',
      '/crew/ringing-log/:entry(\\d+)',
      '/crew/rota/swaps',
    ]);
    expect(grid.at).toBe('2026-11-23T00:00:00Z');
    for (const query of ['under=crew', 'outcome=maybe', 'visitor=nobody', 'at=soon']) {
      expect((await ask(`/api/sites/merrow/grid?${query}`)).status).toBeGreaterThanOrEqual(400);
    }
  });

  const post = (path: string, body: object) =>
    ask(`/api/sites/merrow/${path}`, { method: 'POST', headers: json, body: JSON.stringify(body) });

  test('says who reaches a page, and what someone reaches', async () => {
    const who = await ask('/api/sites/merrow/who-reaches?address=/crew/ringing-log/7');
    expect(await who.json()).toMatchObject({
      address: '/crew/ringing-log/:entry(\\d+)',
      words: 'anyone with the role ringer or warden',
      byFullAccess: 'anyone with the role administrator',
      gates: ['ringing-log'],
    });
    const change = await ask('/api/sites/merrow/who-reaches?address=/crew/rota&right=change');
    expect(await change.json()).toMatchObject({ words: 'anyone with the role warden' });
    expect(await problem(await ask('/api/sites/merrow/who-reaches?address=/none'))).toEqual([
      404,
      'no-such-page',
    ]);
    expect(await problem(await ask('/api/sites/merrow/who-reaches'))).toEqual([
      400,
      'wrong-request',
    ]);
    const reached = (await (
      await post('reached-by', { visitor: { roles: ['trustee'] } })
    ).json()) as { reached: { address: string }[] };
    expect(reached.reached.map(({ address }) => address)).toContain('/trustees/minutes');
  });

  test('lists the pages with their gates and who reaches each', async () => {
    const { pages } = (await (await ask('/api/sites/merrow/pages')).json()) as {
      pages: { address: string }[];
    };
    expect(pages).toHaveLength(52);
    expect(pages.find(({ address }) => address === '/crew/rota/swaps')).toMatchObject({
      parent: '/crew/rota',
      gates: ['swaps', 'crew-room'],
    });
    expect(pages.find(({ address }) => address === '/crew/rota')).toMatchObject({
      linkedFrom: ['menu crew', 'landing after sign-in'],
    });
    expect(pages.find(({ address }) => address === '/apply')).toMatchObject({
      linkedFrom: [],
      state: 'draft',
      words: 'nobody',
    });
  });

  test.each(['pages', 'gates'] as const)('lists %s in slices', async (what) => {
    const listed = async (query: string) =>
      (await (await ask(`/api/sites/merrow/${what}${query}`)).json()) as {
        found: number;
        pages?: unknown[];
        gates?: unknown[];
      };
    const all = (await listed(''))[what]!;
    const first = await listed('?limit=4');
    const rest = await listed('?skip=4');
    expect([first.found, rest.found]).toEqual([all.length, all.length]);
    expect(first[what]).toHaveLength(4);
    expect([...first[what]!, ...rest[what]!]).toEqual(all);
    expect((await listed('?skip=1000000'))[what]).toEqual([]);
  });

  test('lists the gates in words, with what is around each', async () => {
    const { gates } = (await (await ask('/api/sites/merrow/gates')).json()) as {
      gates: { name: string }[];
    };
    expect(gates).toHaveLength(11);
    expect(gates.find(({ name }) => name === 'crew-room')).toMatchObject({
      scopes: ['/crew and all beneath it'],
      admits: 'anyone with the role volunteer, ringer or warden',
      inside: expect.arrayContaining(['ringing-log', 'swaps']) as string[],
      pages: expect.arrayContaining(['/crew', '/crew/rota']) as string[],
    });
    expect(await problem(await ask('/api/sites/merrow/gates?state=newest'))).toEqual([
      400,
      'wrong-request',
    ]);
  });

  test('says where someone lands, and what they are shown', async () => {
    const landed = await post('landings', { as: 'mia', after: 'sign-in', from: '/journal' });
    expect(await landed.json()).toMatchObject({ address: '/journal', visit: { outcome: 'reach' } });
    expect(await problem(await post('landings', { as: 'mia', after: 'lunch' }))).toEqual([
      400,
      'wrong-request',
    ]);
    const visible = await post('visible', { as: 'mia', links: ['/crew', '/shop'] });
    expect(await visible.json()).toMatchObject({
      parts: [{ visible: true }, { visible: false }, { visible: false }, { visible: true }],
      links: [{ visible: false }, { visible: true }],
    });
    expect(await problem(await post('visible', { as: 'mia', links: '/crew' }))).toEqual([
      400,
      'wrong-request',
    ]);
  });

  test('refuses a body without end as soon as it is too large', async () => {
    const { host, port } = new URL(service.address);
    const socket = connect(Number(port), '127.0.0.1');
    const ended = new Promise((done) => socket.once('close', done));
    socket.write(
      `POST /api/check HTTP/1.1\r\nHost: ${host}\r\nContent-Type: application/json\r\nTransfer-Encoding: chunked\r\n\r\n`,
    );
    const chunk = Buffer.concat([
      Buffer.from('10000\r\n'),
      Buffer.alloc(65_536, ' '),
      Buffer.from('\r\n'),
    ]);
    const more = (): void => {
      while (!socket.destroyed && socket.write(chunk));
    };
    socket.on('drain', more).on('error', () => undefined);
    more();
    const [answer] = (await once(socket, 'data')) as [Buffer];
    expect(answer.toString()).toMatch(/^HTTP\/1.1 413 /);
    await ended;
  });

  test('answers every mistake with a problem document', async () => {
    expect(await problem(await ask('/api/nothing'))).toEqual([404, 'no-such-place']);
    expect(await problem(await ask('/api/sites/none/draft'))).toEqual([404, 'no-such-site']);
    const wrongMethod = await ask('/api/sites', { method: 'DELETE' });
    expect(wrongMethod.headers.get('Allow')).toBe('GET, POST');
    expect(await problem(wrongMethod)).toEqual([405, 'wrong-method']);
    expect(
      await problem(
        await ask('/api/sites?id=big', {
          method: 'POST',
          headers: yaml,
          body: 'x'.repeat(2 ** 21),
        }),
      ),
    ).toEqual([413, 'too-large']);
    expect(
      await problem(
        await ask('/api/sites?id=t', {
          method: 'POST',
          headers: { 'Content-Type': 'text/plain' },
          body: 'x',
        }),
      ),
    ).toEqual([415, 'wrong-media-type']);
    expect(await problem(await visit('{}', { 'Content-Type': 'text/plain' }))).toEqual([
      415,
      'wrong-media-type',
    ]);
    expect(await problem(await ask('/api/sites', { method: 'POST' }))).toEqual([
      400,
      'wrong-request',
    ]);
    expect(await problem(await ask('/api/sites/%ff/draft'))).toEqual([400, 'wrong-request']);
  });

  test('the pages close to an address are told, of those that the visitor reaches', async () => {
    const close = async (as: string): Promise<string[]> => {
      const answer = await ask(`/api/sites/merrow/suggestions?address=/crew/rotta&as=${as}`);
      return ((await answer.json()) as { pages: { address: string }[] }).pages.map(
        ({ address }) => address,
      );
    };
    expect((await close('wren'))[0]).toBe('/crew/rota');
    expect(await close('gale')).not.toContain('/crew/rota');
    expect((await ask('/api/sites/merrow/suggestions?address=/x')).status).toBe(400);
  });

  test('many addresses are asked for at once, as JSON or as CSV', async () => {
    const list = (body: object, accept = 'application/json') =>
      ask('/api/sites/merrow/visit-lists', {
        method: 'POST',
        headers: { ...json, Accept: accept },
        body: JSON.stringify(body),
      });
    const addresses = ['/latest', '/Rota.html', '/crew%2Frota', '=1'];
    const { visits } = (await (await list({ addresses, as: ['gale'] })).json()) as {
      visits: { outcome: string; hops: number }[];
    };
    expect(visits.map(({ outcome, hops }) => [outcome, hops])).toEqual([
      ['reach', 2],
      ['sign-in', 2],
      ['invalid', 0],
      ['invalid', 0],
    ]);
    const csv = await (await list({ addresses, as: ['gale'] }, 'text/csv')).text();
    expect(csv.split('\r\n')).toEqual([
      'address,visitor,outcome,status,final,hops',
      '/latest,gale,reach,200,/sightings,2',
      '/Rota.html,gale,sign-in,200,/sign-in?return=%2Fcrew%2Frota,2',
      '/crew%2Frota,gale,invalid,400,/crew%2Frota,0',
      "'=1,gale,invalid,400,'=1,0",
      '',
    ]);
    const all = (await (await list({ addresses: ['/'] })).json()) as { visits: object[] };
    expect(all.visits).toHaveLength(10);
    const many = Array.from({ length: 20_001 }, () => '/');
    expect((await list({ addresses: many })).status).toBe(400);
    expect((await list({ addresses: ['/'], as: ['nobody'] })).status).toBe(404);
  });

  test('every type of problem leads to what it means', async () => {
    const { type, remedy } = (await (await ask('/api/sites/none')).json()) as {
      type: string;
      remedy: string;
    };
    expect(await (await ask(type)).json()).toMatchObject({ type, status: 404, remedy });
    expect(await problem(await ask('/api/problems/none'))).toEqual([404, 'no-such-place']);
  });

  test('logs each request as a line of JSON, and gives its id to the client', async () => {
    const id = (await ask('/healthz')).headers.get('X-Request-Id')!;
    const find = (): string | undefined =>
      service
        .log()
        .split('\n')
        .slice(0, -1)
        .find((one) => one.includes(id));
    // The log comes through a pipe of its own.
    while (find() === undefined) await ask('/healthz');
    expect(JSON.parse(find()!)).toMatchObject({
      method: 'GET',
      path: '/healthz',
      status: 200,
      requestId: id,
    });
  });

  test('lets no page of another site read or change anything', async () => {
    const { headers } = await ask('/api/sites', { headers: { Origin: 'https://evil.example' } });
    expect(headers.get('Access-Control-Allow-Origin')).toBeNull();
    expect(headers.get('Content-Security-Policy')).toContain("default-src 'self'");
  });

  test.each<[string, string, Record<string, string>, number]>([
    ['POST', '/api/sites/none/changes/x/save', { Origin: 'https://evil.example' }, 403],
    ['POST', '/api/sites/none/changes/x/save', { Origin: 'null' }, 403],
    ['POST', '/api/sites/none/changes/x/save', { 'Sec-Fetch-Site': 'cross-site' }, 403],
    ['POST', '/api/sites/none/changes/x/save', { 'Sec-Fetch-Site': 'same-site' }, 403],
    ['DELETE', '/api/sites/none', { Origin: 'http://127.0.0.1:1' }, 403],
    ['GET', '/api/sites/none/grid', { 'Sec-Fetch-Site': 'cross-site' }, 403],
    ['GET', '/api/sites/none/grid', { Origin: 'https://evil.example' }, 403],
    ['GET', '/api/openapi.json', { 'Sec-Fetch-Site': 'cross-site' }, 200],
    ['GET', '/api/sites/none/grid', { 'Sec-Fetch-Site': 'same-origin' }, 404],
    ['GET', '/api/sites/none/grid', { 'Sec-Fetch-Site': 'none' }, 404],
    ['POST', '/api/sites/none/changes/x/save', {}, 400],
    ['POST', '/api/sites/none/changes/x/save', { Origin: 'SELF' }, 400],
  ])('%s %s with %j from a browser is %i', async (method, path, headers, status) => {
    const own = headers['Origin'] === 'SELF' ? { Origin: service.address } : headers;
    // `fetch` sets these fields itself.
    const request = sendRequest(service.address + path, { method, headers: own });
    request.end();
    const [response] = (await once(request, 'response')) as [IncomingMessage];
    response.resume();
    expect(response.statusCode).toBe(status);
  });

  test('the JSON Schema of site files is there for editors', async () => {
    const schema = (await (await ask('/api/site-file.schema.json')).json()) as {
      properties: Record<string, unknown>;
    };
    expect(Object.keys(schema.properties)).toEqual(
      expect.arrayContaining(['kleidon', 'site', 'pages', 'gates', 'visitors']),
    );
  });

  test('every operation of the description was called, and answered as described', () => {
    expect([...called].sort()).toEqual(operations());
  });
});
