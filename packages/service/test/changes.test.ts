import { readFileSync } from 'node:fs';
import { type model, type queries, siteFiles } from '@kleidon/core';

import type { Comparison, Effect, PendingChanges } from '@kleidon/client';
import { call, called, operations } from './described.ts';
import { run, SAMPLE, temporaryFolder, type Running } from './running.ts';

const sample = readFileSync(SAMPLE, 'utf8');
const SITE = '/api/sites/merrow';
const VALUE = siteFiles.valueOf(sample) as Record<string, Record<string, unknown>>;

describe('pending changes', () => {
  const folder = temporaryFolder();
  let service: Running;
  const ask = (path: string, method = 'GET', body?: unknown): Promise<Response> =>
    call(service.address, path, {
      method,
      ...(body === undefined
        ? {}
        : { headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) }),
    });
  const read = async <T>(path: string, method?: string, body?: unknown): Promise<T> =>
    (await (await ask(path, method, body)).json()) as T;
  const add = (id: string, edit: model.Edit): Promise<PendingChanges> =>
    read(`${SITE}/changes/${id}`, 'POST', edit);
  const draft = async (): Promise<{ text: string; version: number }> => read(`${SITE}/draft`);
  const code = async (response: Response): Promise<[number, string]> => [
    response.status,
    ((await response.json()) as { type: string }).type.split('/').at(-1)!,
  ];

  beforeAll(async () => {
    service = await run(folder.path);
    await call(service.address, '/api/sites?id=merrow', {
      method: 'POST',
      headers: { 'Content-Type': 'application/yaml' },
      body: sample,
    });
  });
  afterAll(async () => {
    await service.end();
    folder.remove();
  });

  const RENAME: model.Edit = { do: 'rename', section: 'roles', name: 'ringer', to: 'bander' };
  const TITLE = {
    do: 'put',
    section: 'pages',
    name: '/about',
    was: VALUE['pages']!['/about'],
    value: { title: 'Who we are' },
  } as const;

  test('are listed in words, outlive the service, are dropped one by one, and saved as one', async () => {
    await add('work', RENAME);
    await add('work', TITLE);
    await add('work', { ...TITLE, was: TITLE.value, value: { title: 'About', listed: 'no' } });
    const role: model.Edit = {
      do: 'put',
      section: 'roles',
      name: 'cook',
      was: null,
      value: 'Cooks',
    };
    const three = await add('work', role);
    expect(three.edits.map(({ number, says }) => [number, says])).toEqual([
      [1, 'Role ringer is called bander, in every rule'],
      [3, 'Page /about: About; listed no'],
      [4, 'Role cook: Cooks'],
    ]);
    expect(siteFiles.patchSite(sample, three.operations)).toBe(
      siteFiles.planEdits(
        sample,
        three.edits.map(({ edit }) => edit),
      ).text,
    );
    expect((await draft()).text).toBe(sample);

    await service.end('SIGKILL');
    service = await run(folder.path);
    expect(await read(`${SITE}/changes/work`)).toEqual(three);
    expect(await read(`${SITE}/changes/other`)).toMatchObject({ edits: [], operations: [] });

    const two = await read<PendingChanges>(`${SITE}/changes/work/edits/4`, 'DELETE');
    expect(two.edits.map(({ number }) => number)).toEqual([1, 3]);
    expect(await code(await ask(`${SITE}/changes/work/edits/4`, 'DELETE'))).toEqual([
      404,
      'no-such-change',
    ]);

    const waiting = await read<{ pages: { address: string; title: string }[] }>(
      `${SITE}/pages?state=changes-work`,
    );
    expect(waiting.pages.find(({ address }) => address === '/about')!.title).toBe('About');
    const document = await read<Record<string, object>>(`${SITE}/document?state=changes-work`);
    expect(Object.keys(document['roles']!)).toContain('bander');

    const saved = await ask(`${SITE}/changes/work/save`, 'POST', {});
    expect([saved.status, saved.headers.get('ETag')]).toEqual([200, '"2"']);
    const { text } = await draft();
    expect(text).toContain('  bander: Licensed to ring birds');
    expect(text.match(/#.*$/gm)).toEqual(sample.match(/#.*$/gm));
    expect(await read(`${SITE}/changes/work`)).toMatchObject({ draftVersion: 2, edits: [] });
  });

  const PART = VALUE['parts']!['crew-notices'];

  test('of two editors are both saved, and what can not be made any more is told and waits', async () => {
    await add('anna', { do: 'put', section: 'groups', name: 'anna', was: null, value: 'of Anna' });
    await add('bernd', { do: 'put', section: 'groups', name: 'ben', was: null, value: 'of Ben' });
    await add('bernd', { do: 'remove', section: 'parts', name: 'crew-notices', was: PART });
    await add('anna', { do: 'remove', section: 'parts', name: 'crew-notices', was: PART });
    expect((await ask(`${SITE}/changes/anna/save`, 'POST', {})).status).toBe(200);
    const ben = await read<PendingChanges>(`${SITE}/changes/bernd`);
    expect(ben.edits.map(({ refused }) => refused)).toEqual([
      null,
      'There is no part "crew-notices" any more.',
    ]);
    expect(await code(await ask(`${SITE}/changes/bernd/save`, 'POST', {}))).toEqual([
      409,
      'changes-refused',
    ]);
    await ask(`${SITE}/changes/bernd/edits/${ben.edits[1]!.number}`, 'DELETE');
    expect((await ask(`${SITE}/changes/bernd/save`, 'POST', {})).status).toBe(200);
    expect((await draft()).text).toMatch(/ {2}anna: of Anna\n {2}ben: of Ben\n/);
  });

  const group = (name: string, was: unknown, value: string): model.Edit => ({
    do: 'put',
    section: 'groups',
    name,
    was,
    value,
  });

  test('an entry that someone else changed meanwhile is told with both values, and nothing is saved', async () => {
    await add('first', group('owls', null, 'Owls'));
    await ask(`${SITE}/changes/first/save`, 'POST', {});
    await add('mine', group('owls', 'Owls', 'Mine'));
    await add('theirs', group('owls', 'Owls', 'Theirs'));
    await ask(`${SITE}/changes/theirs/save`, 'POST', {});
    const { version } = await draft();
    const { edits } = await read<PendingChanges>(`${SITE}/changes/mine`);
    expect(edits).toEqual([
      expect.objectContaining({
        refused: 'Group owls was changed meanwhile. Before: Owls. Now: Theirs.',
        conflict: { was: 'Owls', is: 'Theirs' },
      }),
    ]);
    const refused = await ask(`${SITE}/changes/mine/save`, 'POST', {});
    expect(await refused.json()).toMatchObject({
      status: 409,
      errors: [{ conflict: { was: 'Owls', is: 'Theirs' } }],
    });
    expect((await draft()).version).toBe(version);
    // Whoever has seen the other value may replace it.
    const resolved = await add('mine', group('owls', 'Theirs', 'Mine'));
    expect(resolved.edits.map(({ refused }) => refused)).toEqual([null]);
    expect((await ask(`${SITE}/changes/mine/save`, 'POST', {})).status).toBe(200);
    expect((await draft()).text).toContain('\n  owls: Mine\n');
  });

  test('an edit that comes while others are saved stays pending, and fits what was saved', async () => {
    for (let round = 0; round < 5; round++) {
      const name = `during-${round}`;
      await add(name, group(name, null, 'one'));
      const saving = ask(`${SITE}/changes/${name}/save`, 'POST', {});
      const during = add(name, group(name, 'one', 'two'));
      const other = add(name, group(`${name}-other`, null, 'three'));
      expect((await saving).status).toBe(200);
      await Promise.all([during, other]);
      const left = await read<PendingChanges>(`${SITE}/changes/${name}`);
      expect(left.edits.every(({ refused }) => refused === null)).toBe(true);
      if (left.edits.length > 0) await ask(`${SITE}/changes/${name}/save`, 'POST', {});
      const { text } = await draft();
      expect(text).toContain(`\n  ${name}: two\n`);
      expect(text).toContain(`\n  ${name}-other: three\n`);
    }
  });

  test('a number is never given twice, and a set without edits is not saved', async () => {
    const [one] = (await add('numbers', group('n1', null, 'x'))).edits;
    await ask(`${SITE}/changes/numbers/edits/${one!.number}`, 'DELETE');
    const [two] = (await add('numbers', group('n2', null, 'x'))).edits;
    expect(two!.number).toBeGreaterThan(one!.number);
    const stale = await ask(`${SITE}/changes/numbers/edits/${one!.number}`, 'DELETE');
    expect(await code(stale)).toEqual([404, 'no-such-change']);
    const { version } = await draft();
    expect(await code(await ask(`${SITE}/changes/nothing/save`, 'POST', {}))).toEqual([
      404,
      'no-such-change',
    ]);
    expect((await draft()).version).toBe(version);
  });

  /** Each kill restarts the service; more of them are tried outside of the suite. */
  const KILLS = Number(process.env['KLEIDON_KILLS'] ?? 3);

  test(
    'a service that is killed while changes are saved has them either pending or saved',
    async () => {
      const counts = { saved: 0, pending: 0 };
      for (let kill = 0; kill < KILLS; kill++) {
        // Two editors save at once.
        const editors = ['killed', 'killed-too'].map((set) => ({
          set,
          names: [`${set}-${kill}-a`, `${set}-${kill}-b`],
        }));
        for (const { set, names } of editors)
          for (const name of names) await add(set, group(name, null, 'x'));
        const saving = editors.map(({ set }) =>
          ask(`${SITE}/changes/${set}/save`, 'POST', {}).catch(() => null),
        );
        const c = `kill-${kill}-c`;
        const late = add('killed', group(c, null, 'x')).catch(() => null);
        // At another moment of the save each time.
        await new Promise((done) => setTimeout(done, (kill * 487) % 1500));
        await service.end('SIGKILL');
        const answered = (await Promise.all(saving)).map((answer) => answer?.status === 200);
        const acknowledged = (await late)?.edits !== undefined;
        service = await run(folder.path);
        const { text } = await draft();
        const pendingOf = async (set: string): Promise<string[]> =>
          (await read<PendingChanges>(`${SITE}/changes/${set}`)).edits.map(
            ({ edit }) => (edit as { name: string }).name,
          );
        for (const [i, { set, names }] of editors.entries()) {
          const pending = await pendingOf(set);
          const isSaved = names.map((name) => text.includes(`\n  ${name}: x\n`));
          // All of them or none, and each in one place.
          expect(new Set(isSaved).size).toBe(1);
          expect(names.map((name) => pending.includes(name))).toEqual(isSaved.map((one) => !one));
          if (answered[i]) expect(isSaved).toEqual([true, true]);
          counts[isSaved[0] ? 'saved' : 'pending']++;
        }
        if (acknowledged)
          expect((await pendingOf('killed')).includes(c) || text.includes(`\n  ${c}: x\n`)).toBe(
            true,
          );
        for (const { set } of editors) await ask(`${SITE}/changes/${set}`, 'DELETE');
      }
      if (process.env['KLEIDON_KILLS']) process.stderr.write(`${JSON.stringify(counts)}\n`);
    },
    60_000 + KILLS * 5_000,
  );

  test('all can be dropped, and errors that they would make are told', async () => {
    const wrong = await add('wrong', {
      do: 'put',
      section: 'gates',
      name: 'g',
      was: null,
      value: { at: '/about', admit: 'role king' },
    });
    expect(wrong.errors.map(({ message }) => message)).toEqual(['No role is called "king".']);
    expect(await read(`${SITE}/changes/wrong`, 'DELETE')).toMatchObject({ edits: [], errors: [] });
  });

  test.each<[unknown, string]>([
    [{ do: 'fly' }, '"do" is one of'],
    [[], '"do" is one of'],
    [{ do: 'put', section: 'redirects', name: 'x', was: null, value: 1 }, '"section" is one of'],
    [{ do: 'put', section: 'roles', name: 'x', was: null }, '"value" is missing.'],
    [{ do: 'put', section: 'roles', name: 'x', value: 1 }, '"was" is missing.'],
    [{ do: 'rename', section: 'pages', name: '/x', to: '/y' }, '"section" is one of roles'],
    [{ do: 'move-page', from: '/x', to: '/y', beneath: 'yes', redirect: true }, 'beneath'],
    [{ do: 'remove', section: 'roles', name: 'x', was: null, more: 1 }, '"more" is not a field'],
    [
      { do: 'put', section: 'roles', name: 'x', was: null, value: 'y'.repeat(300_000) },
      'characters long',
    ],
  ])('%j is refused', async (edit, message) => {
    const response = await ask(`${SITE}/changes/wrong`, 'POST', edit);
    expect([response.status, await response.text()]).toEqual([
      400,
      expect.stringContaining(message.replace(/"/g, '\\"')),
    ]);
    expect((await ask(`${SITE}/changes/${'x'.repeat(80)}`)).status).toBe(400);
  });

  test('the effect of edits is told cell by cell, and nothing is kept', async () => {
    const before = (await draft()).version;
    const gate: model.Edit = {
      do: 'put',
      section: 'gates',
      name: 'members-area',
      was: VALUE['gates']!['members-area'],
      value: { under: '/members', admit: 'role member' },
    };
    const { change, errors } = await read<Effect>(`${SITE}/effect`, 'POST', { edits: [gate] });
    expect(errors).toEqual([]);
    const gone = change!.cells.filter(({ address }) => address === '/members');
    expect(gone.map(({ visitor }) => visitor)).toEqual([
      'vik',
      'rhoda',
      'wren',
      'petra',
      'lars',
      'cleo',
      'ada',
    ]);
    expect(gone[0]).toMatchObject({ before: { outcome: 'reach' }, after: { outcome: 'block' } });
    expect(gone.at(-1)!.after).toMatchObject({ outcome: 'reach', fullAccess: true });
    expect(change!.changed).toBe(change!.cells.length);
    expect(change!.compared).toBeGreaterThan(400);
    const removed: model.Edit = {
      do: 'remove',
      section: 'pages',
      name: '/tides',
      was: VALUE['pages']!['/tides'],
    };
    const visitor: model.Edit = {
      do: 'put',
      section: 'visitors',
      name: 'nia',
      was: null,
      value: {},
    };
    const { change: other } = await read<Effect>(`${SITE}/effect`, 'POST', {
      edits: [removed, visitor],
    });
    expect(other).toMatchObject({ pagesRemoved: ['/tides'], visitorsAdded: ['nia'] });
    const broken: model.Edit = { ...gate, value: { under: '/members', admit: 'rule member' } };
    expect(await read<Effect>(`${SITE}/effect`, 'POST', { edits: [broken] })).toMatchObject({
      change: null,
      errors: [{ code: 'condition' }],
    });
    expect((await draft()).version).toBe(before);
  });

  test('a finding is fixed if that changes nothing else, and nothing is saved otherwise', async () => {
    const made = await call(service.address, '/api/sites?id=fixed', {
      method: 'POST',
      headers: { 'Content-Type': 'application/yaml' },
      body: `kleidon: 1
site: { name: F, address: https://f.example, sign-in: /in }
pages: { /: Home, /in: In, /a: A }
gates:
  old: # a comment
    at: /a
    admit: nobody
    until: 2020-01-01
`,
    });
    expect(made.status).toBe(201);
    const fix = (version: number, about: string) =>
      call(service.address, '/api/sites/fixed/fix', {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', 'If-Match': `"${version}"` },
        body: JSON.stringify({ code: 'date-passed', about }),
      });
    expect(await code(await fix(1, 'gate none'))).toEqual([409, 'fix-refused']);
    const fixed = await fix(1, 'gate old');
    expect([fixed.status, fixed.headers.get('ETag')]).toEqual([200, '"2"']);
    const { text } = await read<{ text: string }>('/api/sites/fixed/draft');
    expect(text).toContain('gates:');
    expect(text).not.toContain('2020-01-01');
  });

  test('two states, or a state and a file, are compared for every visitor', async () => {
    const text = (await draft()).text.replace(/admit: crew$/m, 'admit: role warden');
    const comparison = await read<Comparison>(`${SITE}/comparison`, 'POST', {
      before: { state: 'draft' },
      after: { text },
      at: '2026-11-23',
    });
    expect(comparison.changes).toMatchObject([{ rule: 'gate crew-room', is: 'changed' }]);
    expect(comparison.total).toBe(comparison.differences.length);
    const room = comparison.differences.find(({ about }) => about === '/crew');
    expect(room).toMatchObject({
      is: 'loses',
      words:
        'anyone with the role volunteer or bander, except anyone with the role warden or administrator',
      visitors: ['vik', 'rhoda'],
      through: expect.arrayContaining(['/crew-news']) as unknown,
      before: { outcome: 'reach', status: 200 },
      after: { outcome: 'block', status: 403 },
      causes: [0],
    });
    for (const body of [
      { before: {}, after: { text } },
      { before: { state: 'draft', text }, after: { text } },
      { before: { state: 'dr' }, after: { text } },
    ])
      expect((await ask(`${SITE}/comparison`, 'POST', body)).status).toBe(400);
    const broken = { before: { state: 'draft' }, after: { text: 'kleidon: 1\n' } };
    expect((await ask(`${SITE}/comparison`, 'POST', broken)).status).toBe(422);
  });

  test('conditions are read as they are typed, and printed as they are built', async () => {
    const condition = (body: object): Promise<queries.ReadCondition & { text: string }> =>
      read(`${SITE}/conditions`, 'POST', body);
    const typed = await condition({ text: 'role warden or bought hide-permit' });
    expect(typed).toMatchObject({
      ok: true,
      words: 'anyone with the role warden; and buyers of Hide permit while it is in force',
    });
    expect(await condition({ condition: typed.ok && typed.condition })).toEqual(typed);
    expect(await condition({ text: 'role wardn and guest' })).toEqual({
      ok: false,
      text: 'role wardn and guest',
      offset: 5,
      problem: {
        code: 'unknown-role',
        name: 'wardn',
        suggestion: { meant: 'warden', known: [] },
      },
      message: 'No role is called "wardn".',
      remedy: 'Did you mean "warden"?',
    });
    expect(await condition({ text: 'role' })).toMatchObject({ ok: false, offset: 4 });
    expect(
      await condition({ text: 'visitor.id = path.person', addresses: ['/my/:person'] }),
    ).toMatchObject({ ok: true });
    expect(await condition({ text: 'visitor.id = path.person' })).toMatchObject({ ok: false });
    for (const body of [{}, { text: 'guest', condition: {} }, { condition: { is: 1 } }]) {
      expect((await ask(`${SITE}/conditions`, 'POST', body)).status).toBe(400);
    }
  });

  test('every operation on changes was called, and answered as described', () => {
    expect(operations('changes').filter((one) => !called.has(one))).toEqual([]);
  });
});
