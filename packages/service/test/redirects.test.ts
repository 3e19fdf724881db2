import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { decisions, proposals, queries } from '@kleidon/core';
import { createClient, type Effect, type SavedDraft } from '@kleidon/client';
import { json, kleidon } from '../../cli/test/cli.ts';
import { call, called, operations } from './described.ts';
import { run, temporaryFolder, type Running } from './running.ts';

const SITE = `kleidon: 1
site: { name: Lists, address: https://lists.example }
pages: { /new: New, /other: Other }
redirects:
  - { from: /a, to: /b, note: first }
  - { from: /b, to: /new, kind: permanent }
  - { from: /ended, to: /new, until: 2020-01-01 }
  - { from: /soon, to: /new, since: 2090-01-01 }
redirect-lists: [old.csv]
`;
const LIST = `from,to,kind\n${Array.from({ length: 500 }, (_, i) => `/old-${i},/new,permanent`).join('\n')}\n`;
const L = '/api/sites/lists';

describe('redirects over HTTP', () => {
  const folder = temporaryFolder();
  let service: Running;
  const ask = (path: string, init: RequestInit = {}): Promise<Response> =>
    call(service.address, path, init);
  const read = async <T>(path: string, init?: RequestInit): Promise<T> =>
    (await (await ask(path, init)).json()) as T;
  const table = (query: string): Promise<queries.RedirectTable> => read(`${L}/redirects?${query}`);
  const froms = async (query: string): Promise<string[]> =>
    (await table(query)).rows.map(({ from }) => from);
  const put = (name: string, version: number, body: string): Promise<Response> =>
    ask(`${L}/lists/${name}`, {
      method: 'PUT',
      headers: { 'Content-Type': 'text/csv', 'If-Match': `"${version}"` },
      body,
    });

  beforeAll(async () => {
    service = await run(join(folder.path, 'data'));
    writeFileSync(join(folder.path, 'lists.site.yaml'), SITE);
    writeFileSync(join(folder.path, 'old.csv'), LIST);
    const added = await kleidon([
      'sites',
      'add',
      join(folder.path, 'lists.site.yaml'),
      '--service',
      service.address,
    ]);
    expect(added.out).toContain('lists: Lists, draft version 2, never released');
  });
  afterAll(async () => {
    await service.end();
    folder.remove();
  });

  test('a list is read, replaced by whoever has seen the draft, refused otherwise, and taken away', async () => {
    const there = await ask(`${L}/lists/old.csv`);
    expect([await there.text(), there.headers.get('ETag')]).toEqual([LIST, '"2"']);
    expect((await put('more.csv', 1, 'from,to\n')).status).toBe(412);
    const saved = (await (await put('more.csv', 2, 'from,to\n')).json()) as SavedDraft;
    expect([saved.version, saved.errors]).toEqual([3, []]);
    const { lists } = await read<{ lists: { name: string; length: number }[] }>(`${L}/lists`);
    expect(lists.map(({ name, length }) => [name, length])).toEqual([
      ['more.csv', 8],
      ['old.csv', LIST.length],
    ]);
    expect((await put('..%2Fx.csv', 3, '')).status).toBe(400);
    expect((await put('x.yaml', 3, '')).status).toBe(400);
    const gone = await ask(`${L}/lists/more.csv`, {
      method: 'DELETE',
      headers: { 'If-Match': '"3"' },
    });
    expect([gone.status, gone.headers.get('ETag')]).toEqual([200, '"4"']);
    expect((await ask(`${L}/lists/more.csv`)).status).toBe(404);
  });

  test('an error in a list says its file and line, and it is not released', async () => {
    const wrong = (await (await put('old.csv', 4, 'from,to\n/x,/y\nno,/z\n')).json()) as SavedDraft;
    expect(wrong.errors).toMatchObject([{ file: 'old.csv', line: 3, column: 1 }]);
    const refused = await ask(`${L}/releases`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', 'If-Match': '"5"' },
      body: '{"note":"x"}',
    });
    expect(refused.status).toBe(422);
    expect((await put('old.csv', 5, LIST)).status).toBe(200);
  });

  test('a release keeps its lists, whatever becomes of the draft', async () => {
    const site = { site: 'lists', service: service.address };
    const options = ['--site', site.site, '--service', site.service];
    await kleidon(['release', 'make', '--note', 'first', ...options]);
    const isLive = async (): Promise<boolean> =>
      (await read<{ draft: { isLive: boolean } }>(L)).draft.isLive;
    expect(await isLive()).toBe(true);
    await put('old.csv', 6, 'from,to\n/old-1,/other\n');
    expect(await isLive()).toBe(false);
    const final = async (state: string): Promise<string> =>
      (
        await read<decisions.Visit>(`${L}/visits?state=${state}`, {
          method: 'POST',
          headers: { 'Content-Type': 'application/json' },
          body: JSON.stringify({ address: '/old-1', visitor: { guest: true } }),
        })
      ).final;
    expect([await final('live'), await final('draft')]).toEqual(['/new', '/other']);
    writeFileSync(join(folder.path, 'old.csv'), LIST);
    const file = join(folder.path, 'lists.site.yaml');
    const version = (await json<{ version: number }>(['draft', 'get', ...options])).version;
    const again = await kleidon(['draft', 'put', file, '--replaces', String(version), ...options]);
    expect(again.out).toContain(`Saved as version ${version + 2}`);
    expect(await isLive()).toBe(true);
  });

  test('the table is searched, filtered, sorted and cut', async () => {
    const all = await table('limit=3');
    expect([all.all, all.found, all.rows.map(({ line, list }) => [line, list])]).toEqual([
      504,
      504,
      [
        [5, null],
        [6, null],
        [7, null],
      ],
    ]);
    expect(all.findings).toMatchObject({ 'redirect-chain': 1, 'date-passed': 1 });
    expect(await froms('search=FIRST')).toEqual(['/a']);
    expect(await froms('search=old-49&order=from&descending=true&limit=2')).toEqual([
      '/old-499',
      '/old-498',
    ]);
    expect(await froms('status=scheduled')).toEqual(['/soon']);
    expect(await froms('status=expired')).toEqual(['/ended']);
    expect(await froms('finding=any&order=to')).toEqual(['/a', '/ended']);
    expect(await froms('finding=redirect-chain')).toEqual(['/a']);
    expect(await froms('kind=temporary&list=')).toEqual(['/a', '/ended', '/soon']);
    expect(await froms('list=old.csv&skip=499')).toEqual(['/old-499']);
    expect((await table('finding=none')).found).toBe(502);
    expect((await ask(`${L}/redirects?order=colour`)).status).toBe(400);
  });

  test.each(['- no map\n', 'redirects: no list\n', '{'])(
    'a spreadsheet for the draft %j is refused with what is wrong',
    async (text) => {
      const site = `${L}-${text.length}`;
      await createClient(service.address).addSite(SITE, site.slice('/api/sites/'.length));
      const headers = { 'Content-Type': 'application/yaml', 'If-Match': '"1"' };
      await ask(`${site}/draft`, { method: 'PUT', headers, body: text });
      const refused = await ask(`${site}/redirect-proposals`, {
        method: 'POST',
        headers: { 'Content-Type': 'text/csv' },
        body: 'from,to\n/c,/new\n',
      });
      expect(await refused.json()).toMatchObject({
        status: 422,
        title: 'The patch can not be applied',
      });
    },
  );

  test('a spreadsheet is proposed line by line, and nothing is kept', async () => {
    const csv = 'from,to,kind\n/a,/new,302\n/c,/new,\nno,/x,\n/b,/new,301\n';
    const post = (body: string): Promise<Response> =>
      ask(`${L}/redirect-proposals`, {
        method: 'POST',
        headers: { 'Content-Type': 'text/csv' },
        body,
      });
    const proposal = (await (await post(csv)).json()) as proposals.RedirectsProposal;
    expect(proposal.additions.map(({ name, line }) => [name, line])).toEqual([['/c', 3]]);
    expect(proposal.changes.map(({ name, line }) => [name, line])).toEqual([['/a', 2]]);
    expect(proposal.refused.map(({ line }) => line)).toEqual([4]);
    expect(proposal.known).toBe(1);
    expect((await post('nothing')).status).toBe(400);
    expect((await ask(`${L}/redirect-proposals`, { method: 'POST' })).status).toBe(415);
    expect((await table('')).all).toBe(504);
  });

  test('the effect of an edit tells what a guest would meet, and what would look wrong', async () => {
    const was = { from: '/b', to: '/new', kind: 'permanent' };
    const effect = await read<Effect>(`${L}/effect`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({
        edits: [
          {
            do: 'put-items',
            section: 'redirects',
            items: [
              { was, value: { ...was, to: '/a' } },
              { was: null, value: { from: '/d', to: '/old-7' } },
            ],
          },
        ],
      }),
    });
    expect(effect.visits.map(({ outcome, final }) => [outcome, final])).toEqual([
      ['loop', '/b'],
      ['reach', '/new'],
    ]);
    expect(effect.findings!.map(({ code, about }) => `${code} ${about}`)).toContain(
      'redirect-loop redirect /a',
    );
    expect(effect.findings!.map(({ code, about }) => `${code} ${about}`)).toContain(
      'redirect-chain redirect /d',
    );
  });

  test('a page is told with all its addresses, and where each leads', async () => {
    const { addresses } = await read<{ addresses: queries.PageAddress[] }>(
      `${L}/addresses?address=/new`,
    );
    const [first, ...others] = addresses;
    expect(first).toEqual({
      address: '/new',
      by: 'primary',
      outcome: 'reach',
      final: '/new',
      hops: 0,
    });
    expect(others).toContainEqual(
      expect.objectContaining({ address: '/b', by: 'redirect', final: '/new', hops: 1 }),
    );
    expect(others).toContainEqual(
      expect.objectContaining({ address: '/NEW', by: 'spelling', final: '/new', hops: 1 }),
    );
    expect((await ask(`${L}/addresses?address=/nothing`)).status).toBe(404);
  });

  test('search engines read what the rules say', async () => {
    const robots = await ask(`${L}/search-engines/robots.txt`);
    expect([robots.headers.get('Content-Type'), await robots.text()]).toEqual([
      'text/plain; charset=utf-8',
      'User-agent: *\nAllow: /\n\nSitemap: https://lists.example/sitemap.xml\n',
    ]);
    const sitemap = await ask(`${L}/search-engines/sitemap.xml?state=live`);
    expect(await sitemap.text()).toContain('<loc>https://lists.example/other</loc>');
    expect((await ask(`${L}/search-engines/sitemap-1.xml`)).status).toBe(404);
  });

  test('the lists of the command line', async () => {
    const options = ['--site', 'lists', '--service', service.address];
    expect((await kleidon(['lists', 'show', ...options])).out).toMatch(
      /^old\.csv {2}\d+ characters/,
    );
    expect((await kleidon(['lists', 'get', 'old.csv', ...options])).out).toBe(LIST);
    const path = join(folder.path, 'extra.csv');
    writeFileSync(path, 'from,to\n');
    expect((await kleidon(['lists', 'put', path, ...options])).out).toContain(
      'Put extra.csv beside',
    );
    expect((await kleidon(['lists', 'remove', 'extra.csv', ...options])).code).toBe(0);
    const gone = await kleidon(['lists', 'get', 'extra.csv', ...options]);
    expect([gone.code, gone.err]).toEqual([2, expect.stringContaining('has no list extra.csv')]);
    const here = await kleidon([
      'visit',
      '/old-7',
      '--visitor',
      '{ guest: yes }',
      '--file',
      join(folder.path, 'lists.site.yaml'),
    ]);
    expect(here.out).toContain('(old.csv, line 9)');
    const file = await kleidon([
      'export',
      'redirects',
      '--file',
      join(folder.path, 'lists.site.yaml'),
    ]);
    expect(file.out.trim().split('\r\n')).toHaveLength(505);
  });

  test('every operation on redirects was called', () => {
    expect(operations('redirects').filter((one) => !called.has(one))).toEqual([]);
  });
});
