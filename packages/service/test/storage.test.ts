import { statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { openDatabase } from '../src/store/database.ts';
import { siteStore } from '../src/store/sites.ts';
import { storageStore } from '../src/store/storage.ts';
import { run, temporaryFolder } from './running.ts';

const text = (length: number): string =>
  `kleidon: 1\nsite: { name: S, address: https://s.example }\npages:\n  /: Home\n#${'x'.repeat(length)}\n`;

test('a site takes no more of the disk than the settings say, and all sites together neither', async () => {
  const folder = temporaryFolder();
  const settings = join(folder.path, 'settings.yaml');
  writeFileSync(settings, 'storage: { megabytes-per-site: 1, megabytes: 2 }\n');
  const service = await run(folder.path, '--settings', settings);
  const api = `${service.address}/api/sites`;
  const send = async (
    path: string,
    method: string,
    version: number,
    body: string,
    json = false,
  ) => {
    const answer = await fetch(api + path, {
      method,
      headers: {
        'Content-Type': json ? 'application/json' : 'application/yaml',
        'If-Match': `"${version}"`,
      },
      body,
    });
    return [answer.status, await answer.json()] as [number, { type?: string; detail?: string }];
  };
  const large = text(320_000);
  expect((await send('?id=s', 'POST', 0, large))[0]).toBe(201);
  const add = (name: string) =>
    send(
      '/s/changes/pending-ones',
      'POST',
      0,
      JSON.stringify({ do: 'put', section: 'pages', name, was: null, value: 'x'.repeat(190_000) }),
      true,
    );
  expect((await add('/first'))[0]).toBe(201);
  expect((await send('/s/releases', 'POST', 1, '{"note":"First"}', true))[0]).toBe(201);
  const full = [
    await send('/s/draft', 'PUT', 1, `${large}# More\n`),
    await send('/s/releases', 'POST', 1, '{"note":"Second"}', true),
    await add('/second'),
  ];
  for (const [status, problem] of full) {
    expect([status, problem.type]).toEqual([507, '/api/problems/storage-full']);
    expect(problem.detail).toBe('The drafts, releases and pending changes of "s" may take 1 MB.');
  }
  // Other sites have room, until all of it is taken.
  expect((await send('?id=t', 'POST', 0, large))[0]).toBe(201);
  const [status, problem] = await send('?id=u', 'POST', 0, text(1_500_000));
  expect([status, problem.detail]).toEqual([507, 'All sites together may take 2 MB.']);
  // Nothing was lost, and what is dropped makes room.
  expect(
    await (await fetch(`${api}/s/draft`, { headers: { Accept: 'application/yaml' } })).text(),
  ).toBe(large);
  await fetch(`${api}/s/changes/pending-ones`, { method: 'DELETE' });
  expect((await send('/s/draft', 'PUT', 1, text(3)))[0]).toBe(200);
  expect(await service.end()).toBe(0);
  folder.remove();
});

test('what was deleted is given back to the disk, a part at a time', () => {
  const folder = temporaryFolder();
  const db = openDatabase(folder.path);
  const [sites, storage] = [siteStore(db), storageStore(db)];
  const check = { name: 'S', errors: 0, packed: new Uint8Array() };
  const large = 'x'.repeat(5_000_000);
  for (const id of ['a', 'b']) sites.add(id, large, check, new Date(0));
  expect(storage.ofSite('a')).toBe(5_000_000);
  const size = (): number => statSync(join(folder.path, 'kleidon.sqlite')).size;
  db.pragma('wal_checkpoint(TRUNCATE)');
  const before = size();
  sites.remove('a', new Date(0));
  sites.purge(new Date(1));
  expect(storage.ofAll()).toBeLessThan(before - 4_900_000);
  let times = 0;
  for (; size() > before - 4_900_000 && times < 10; times++) {
    storage.giveBack();
    db.pragma('wal_checkpoint(TRUNCATE)');
  }
  expect([times > 1, times < 10]).toEqual([true, true]);
  expect(storage.ofSite('b')).toBe(5_000_000);
  db.close();
  folder.remove();
});
